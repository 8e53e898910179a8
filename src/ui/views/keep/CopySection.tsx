import { say } from '@/texts/say';
import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { formatBytes } from '@/core/base/units';
import { canUseFolders } from '@/state/files/folders';
import {
  allowAgain,
  checkCopyFolder,
  chooseCopyFolder,
  copyNow,
  endCopying,
  useCopying,
} from '@/state/keep/copying';
import { useProject } from '@/state/project/openProject';
import { useAgo } from './useAgo';
import { WhatIsWrong } from '../../components/WhatIsWrong';

const small = { size: 'small', variant: 'outlined', color: 'inherit' } as const;

/** The copy outside the browser: where it is, whether it is up to date, and what can be done with it. */
export function CopySection() {
  const readOnly = useProject((state) => state.readOnly);
  const { status } = useCopying();
  if (!canUseFolders())
    return (
      <Typography color="text.secondary">{say`This browser cannot write into a folder by itself. Save project files, as below; Parola reminds you. Or use a browser that has the File System Access interface, such as Chromium.`}</Typography>
    );
  if (readOnly)
    return (
      <Typography color="text.secondary">{say`The copy is kept by the tab in which the project is edited.`}</Typography>
    );
  return status === 'off' ? <Without /> : <With />;
}

function Without() {
  return (
    <>
      <Typography
        sx={{ mb: 1 }}
      >{say`Choose a folder, best on another disk or one that is backed up: every take is written there as WAV when it ends, and everything else within half a minute. Nothing in it is ever deleted by Parola.`}</Typography>
      <Buttons>
        <Button
          {...small}
          variant="contained"
          color="primary"
          onClick={() => void chooseCopyFolder(true)}
        >{say`Choose a folder for all projects …`}</Button>
        <Button
          {...small}
          onClick={() => void chooseCopyFolder(false)}
        >{say`For this project only …`}</Button>
      </Buttons>
    </>
  );
}

function With() {
  const { status, folderName, forAll, done, files, bytes, message, at } = useCopying();
  const ago = useAgo(at);
  const where = `“${folderName}”${forAll ? say`, the folder of all projects` : ''}`;
  return (
    <>
      {status === 'asks' && (
        <Alert
          severity="warning"
          sx={{ mb: 1 }}
          action={
            <Button color="inherit" size="small" onClick={() => void allowAgain()}>{say`Allow it`}</Button>
          }
        >{say`The browser wants to be asked again before Parola may write into ${where}. Until then nothing is copied.`}</Alert>
      )}
      {status === 'failed' && (
        <WhatIsWrong about="kept" sx={{ mb: 1 }}>
          {message}
        </WhatIsWrong>
      )}
      <Typography>
        {status === 'copying' && say`Copying into ${where} …`}
        {status === 'copied' &&
          say`All of it is in ${where}${ago ? say`, copied ${ago}` : ''}: ${files} ${files === 1 ? say`file` : say`files`}, ${formatBytes(bytes)}.`}
        {(status === 'failed' || status === 'asks') &&
          (ago
            ? say`The last complete copy in ${where} was made ${ago}.`
            : say`There is no complete copy in ${where} yet.`)}
      </Typography>
      {status === 'copying' && done > 0 && (
        <LinearProgress variant="determinate" value={100 * done} aria-label={say`Copying`} sx={{ my: 1 }} />
      )}
      <Buttons>
        {status === 'failed' && <Button {...small} onClick={copyNow}>{say`Try again now`}</Button>}
        {status === 'copied' && (
          <Button {...small} onClick={() => void checkCopyFolder()}>{say`Check the copy`}</Button>
        )}
        <Button {...small} onClick={() => void chooseCopyFolder(forAll)}>{say`Another folder …`}</Button>
        {forAll && (
          <Button
            {...small}
            onClick={() => void chooseCopyFolder(false)}
          >{say`A folder for this project only …`}</Button>
        )}
        <Button {...small} onClick={() => void endCopying()}>
          {forAll ? say`Copy no project any more` : say`Copy no more`}
        </Button>
      </Buttons>
    </>
  );
}

const Buttons = ({ children }: { children: React.ReactNode }) => (
  <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1, mt: 1 }}>{children}</Box>
);
