import { say } from '@/texts/say';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { formatBytes } from '@/core/base/units';
import { hourBytes, roughly } from '@/core/keep/space';
import { askToKeep, useSpace } from '@/state/keep/browserSpace';
import { useMinutesLeft } from '@/state/keep/space';
import { useProject } from '@/state/project/openProject';

/** What the browser has promised, and how much of its room is taken. */
export function SpaceSection() {
  const { browser, projects } = useSpace();
  const { minutes } = useMinutesLeft();
  const project = useProject((state) => state.project);
  if (!browser || !project)
    return <Typography color="text.secondary">{say`This browser does not say what it keeps.`}</Typography>;
  const { persisted, usedBytes, freeBytes } = browser;
  return (
    <>
      <Typography>
        {persisted
          ? say`Every change is stored at once. The browser has promised to keep it until you remove it yourself.`
          : say`Every change is stored at once, but the browser may clear its storage when the disk gets full.`}
      </Typography>
      <Typography color="text.secondary" sx={{ my: 0.5 }}>
        {say`This project takes ${formatBytes(projects.get(project.id) ?? 0)}, everything here ${formatBytes(usedBytes)}`}
        {freeBytes !== null && say`; the browser says it allows ${formatBytes(freeBytes)} more`}
        {say`. An hour on one track takes ${formatBytes(hourBytes(project.rateHz, 1))}`}
        {minutes !== null && say`: room for ${roughly(minutes)} of recording`}.
      </Typography>
      {!persisted && (
        <Button
          size="small"
          variant="outlined"
          color="inherit"
          onClick={() => void askToKeep()}
        >{say`Ask the browser to keep it`}</Button>
      )}
    </>
  );
}
