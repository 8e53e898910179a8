'use client';
import { say } from '@/texts/say';
import { markTraits } from '@/core/timeline/markTraits';
import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import { usePart } from '@/state/sheet/part';
import { takesOf } from '@/state/recording/recordPlan';
import { useProject } from '@/state/project/openProject';
import { useView, type BoothView } from '@/state/page/view';
import { Contained } from '../../components/Contained';
import { CueList } from '../cues/CueList';
import { FindPanel } from './FindPanel';
import { MarkList } from './MarkList';
import { useOpenProposals } from './useOpenProposals';
import { ScriptList } from './ScriptList';
import { TakeList } from './TakeList';

export function SidePanel() {
  const panel = useView((state) => state.panel);
  const partId = usePart((state) => state.id);
  const marks = usePart((state) => state.timeline.marks.filter(({ kind }) => markTraits[kind].listed).length);
  const cues = usePart((state) => state.timeline.cueSheet?.cues.length ?? 0);
  const finds = useOpenProposals().length;
  const sources = useProject((state) => state.sources);
  const takes = takesOf(partId, sources.values()).length;
  return (
    <Box
      sx={{
        width: 290,
        flexShrink: 0,
        borderRight: 1,
        borderColor: 'divider',
        display: 'flex',
        flexDirection: 'column',
        minHeight: 0,
      }}
    >
      <Tabs
        value={panel}
        onChange={(_, value: BoothView['panel']) => useView.setState({ panel: value })}
        onMouseDown={(event) => event.preventDefault()}
        textColor="inherit"
        sx={{
          minHeight: 42,
          borderBottom: 1,
          borderColor: 'divider',
          px: 1,
          '& .MuiTab-root': { minHeight: 42, minWidth: 0, px: 0.75, fontSize: 13, textTransform: 'none' },
        }}
      >
        <Tab value="script" label={say`Script`} />
        <Tab value="cues" label={cues > 0 ? say`Cues ${cues}` : say`Cues`} />
        <Tab value="takes" label={say`Takes ${takes}`} />
        <Tab value="marks" label={say`Marks ${marks}`} />
        <Tab value="finds" label={say`Finds ${finds}`} />
      </Tabs>
      <Contained key={`${panel} ${partId}`} what={say`This list`}>
        {panel === 'script' && <ScriptList />}
        {panel === 'cues' && <CueList />}
        {panel === 'takes' && <TakeList />}
        {panel === 'marks' && <MarkList />}
        {panel === 'finds' && <FindPanel />}
      </Contained>
    </Box>
  );
}
