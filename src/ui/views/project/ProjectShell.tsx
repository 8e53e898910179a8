'use client';
import { say } from '@/texts/say';
import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import CircularProgress from '@mui/material/CircularProgress';
import Link from 'next/link';
import { usePathname } from 'next/navigation';
import { useEffect, useState, type ReactNode } from 'react';
import { helpAt } from '@/core/base/helpIds';
import { formatTime } from '@/core/base/units';
import { offerLaunched } from '@/state/files/launched';
import { enterProject, leaveProject } from '@/state/lifecycle/lifecycle';
import { allCallers } from '@/state/far/session';
import { followShowing } from '@/state/far/showing';
import { followLag } from '@/state/finds/lag';
import { followDevices, useInput } from '@/state/recording/input';
import { dismissRecovered } from '@/state/project/settings';
import { useProject } from '@/state/project/openProject';
import { isEditable, useTransport } from '@/state/hearing/transport';
import { rememberSpeech } from '@/state/mix/ducking';
import { hearChanges } from '@/state/mix/strips';
import { followWords } from '@/state/mix/words';
import { followBackups } from '@/state/keep/reminding';
import { followSpace } from '@/state/keep/space';
import { followWork } from '@/state/keep/workLog';
import { readKeymap } from '@/state/page/keymap';
import { followFirstVisit } from '@/state/visit/firstVisit';
import { useSaving } from '@/state/page/saving';
import { readView } from '@/state/page/view';
import { Brand } from '../../components/Brand';
import { Contained } from '../../components/Contained';
import { HelpLink } from '../../components/HelpLink';
import { JobBar } from '../../components/JobBar';
import { QuestionDialog } from '../../components/QuestionDialog';
import { UpdateBanner } from '../../components/UpdateBanner';
import { LanguageChoice } from '../../components/LanguageChoice';
import { ThemeToggle } from '../../components/ThemeToggle';
import { FarDialog } from '../far/FarDialog';
import { KeepBanners } from '../keep/KeepBanners';
import { KeepDialog } from '../keep/KeepDialog';
import { FirstVisitCard } from './FirstVisitCard';
import { ImportDialog } from './ImportDialog';
import { InputChip } from './InputChip';
import { PartPicker } from './PartPicker';
import { SavedSign } from './SavedSign';
import { useFileDrops } from './useFileDrops';
import { WhatIsWrong } from '../../components/WhatIsWrong';

const tabs = ['brief', 'booth', 'finish', 'proof'] as const;
const tabNames = { brief: say`Brief`, booth: say`Booth`, finish: say`Finish`, proof: say`Proof` };

/** Opens the project for as long as one of its screens is shown. */
export function ProjectShell({ id, children }: { id: string; children: ReactNode }) {
  const status = useProject((state) => state.status);
  const error = useProject((state) => state.error);
  const path = usePathname();
  // For a moment the project before can still be closing.
  const open = useProject((state) => state.status === 'open' && state.project?.id === id);
  useEffect(() => {
    void enterProject(id);
    void readView();
    void readKeymap();
    const unfollow = followDevices();
    return () => {
      unfollow();
      void leaveProject();
    };
  }, [id]);
  useEffect(() => followShowing(allCallers), []);
  useEffect(() => followWords(), []);
  useEffect(() => hearChanges(), []);
  useEffect(() => followLag(), []);
  useEffect(() => rememberSpeech(), []);
  useFollowedKeeping(open);
  useEffect(() => {
    if (open) offerLaunched();
  }, [open]);
  useLeaveWarning();
  const { getRootProps } = useFileDrops();
  if (status === 'failed') {
    return (
      <Box sx={{ p: 6, maxWidth: 640 }}>
        <WhatIsWrong about="projects" sx={{ mb: 2 }}>
          {error}
        </WhatIsWrong>
        <Button component={Link} href="/" variant="contained">{say`All projects`}</Button>
      </Box>
    );
  }
  return (
    <Box {...getRootProps()} sx={{ height: '100dvh', display: 'flex', flexDirection: 'column' }}>
      <Header id={id} />
      <Banners id={id} />
      <FirstVisitCard projectId={id} />
      <Box component="main" sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
        <Contained key={path} what={say`This screen`}>
          {open ? children : <CircularProgress sx={{ m: 'auto' }} aria-label={say`Opening the project`} />}
        </Contained>
      </Box>
      <JobBar />
      <Contained what={say`The import`}>
        <ImportDialog />
      </Contained>
      <FarDialog />
      <KeepDialog />
      <QuestionDialog />
    </Box>
  );
}

/** Room and backups are looked at while a project is open. */
function useFollowedKeeping(open: boolean) {
  useEffect(() => (open ? followSpace() : undefined), [open]);
  useEffect(() => (open ? followBackups() : undefined), [open]);
  useEffect(() => (open ? followWork() : undefined), [open]);
  useEffect(() => (open ? followFirstVisit() : undefined), [open]);
}

/**
 * Closing the window while recording, or before all is stored, asks first; a take would be recovered all the
 * same.
 */
function useLeaveWarning() {
  const recording = useTransport((state) => state.mode === 'recording' || state.mode === 'rolling');
  const unsaved = useSaving((state) => state.failed);
  useEffect(() => {
    if (!recording && !unsaved) return;
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [recording, unsaved]);
}

/** On a phone the screens have a line of their own. */
const onPhone = {
  '@media (max-width: 700px)': {
    height: 'auto',
    flexWrap: 'wrap',
    justifyContent: 'space-between',
    rowGap: 0,
    py: 0.5,
    '& > nav': { order: 1, width: '100%', justifyContent: 'space-around' },
    '& > nav > a': { py: 0.75 },
    '& > div': { flex: '0 1 auto', flexWrap: 'wrap' },
  },
} as const;

function Header({ id }: { id: string }) {
  const path = usePathname();
  const name = useProject((state) => state.project?.name ?? '');
  const recording = !useTransport(isEditable);
  return (
    <Box
      component="header"
      // A click up here leaves the focus where it was: the next Enter still means record.
      onMouseDown={(event) => event.preventDefault()}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1.5,
        px: 2,
        height: 52,
        ...onPhone,
        borderBottom: 1,
        borderColor: 'divider',
        flexShrink: 0,
      }}
    >
      <Brand />
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.75, flex: 1, minWidth: 0 }}>
        <Box
          component="h1"
          sx={{
            m: 0,
            fontSize: 'inherit',
            fontWeight: 400,
            color: 'text.secondary',
            overflow: 'hidden',
            textOverflow: 'ellipsis',
            whiteSpace: 'nowrap',
            maxWidth: 220,
            '@media (max-width: 700px)': { display: 'none', '& + span': { display: 'none' } },
          }}
        >
          {name}
        </Box>
        <PartPicker />
      </Box>
      <Box component="nav" aria-label={say`Screens`} sx={{ display: 'flex', alignSelf: 'stretch' }}>
        {tabs.map((tab) => {
          const current = path.endsWith(`/${tab}`);
          return (
            <Box
              key={tab}
              component={Link}
              href={`/project/${id}/${tab}`}
              aria-current={current ? 'page' : undefined}
              aria-disabled={recording && !current}
              tabIndex={recording && !current ? -1 : undefined}
              sx={{
                px: 2.25,
                display: 'flex',
                alignItems: 'center',
                textDecoration: 'none',
                color: current ? 'text.primary' : 'text.secondary',
                fontWeight: current ? 700 : 400,
                borderBottom: '2px solid',
                borderTop: '2px solid transparent',
                borderBottomColor: current ? 'text.primary' : 'transparent',
                pointerEvents: recording && !current ? 'none' : undefined,
                opacity: recording && !current ? 0.5 : 1,
              }}
            >
              {tabNames[tab]}
            </Box>
          );
        })}
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'flex-end', gap: 1, flex: 1 }}>
        <InputChip />
        <SavedSign />
        <HelpLink about={helpAt(path) ?? 'booth'} />
        <LanguageChoice />
        <ThemeToggle />
      </Box>
    </Box>
  );
}

const recoveredWhere = {
  continue: say`stands at the end of the part`,
  retake: say`stands where it was being recorded, what it covers is in the stack of takes`,
  insert: say`stands where it was being inserted`,
  patch: say`stands where it was being recorded, what it covers is in the stack of takes`,
  cue: say`stands in its cue, what it covers is in the stack of takes`,
};

/** What has to be known before anything is recorded. */
function InputWarnings() {
  const warnings = useInput((state) => state.warnings);
  const [dismissed, setDismissed] = useState('');
  const text = warnings.join(' ');
  if (text === '' || text === dismissed) return null;
  return (
    <Alert severity="warning" square onClose={() => setDismissed(text)}>
      {text}
    </Alert>
  );
}

function Banners({ id }: { id: string }) {
  const { readOnly, outdated, canTakeOver, recovered } = useProject();
  const busy = !useTransport(isEditable);
  return (
    <>
      <UpdateBanner busy={busy} />
      <InputWarnings />
      <KeepBanners onRepaired={() => void leaveProject().then(() => enterProject(id))} />
      {readOnly && (
        <Alert
          severity="warning"
          square
          action={
            canTakeOver && (
              <Button
                color="inherit"
                size="small"
                onClick={() => void leaveProject().then(() => enterProject(id))}
              >{say`Edit it here`}</Button>
            )
          }
        >
          {outdated
            ? say`This project was stored by an earlier Parola, and there is no room to store it as it is today. Here you can listen and look, but nothing can be recorded or changed: make room on the disk, then open it again.`
            : canTakeOver
              ? say`The other tab has closed this project.`
              : say`This project is open in another tab. Here you can listen and look, but nothing can be recorded or changed until the other tab closes it.`}
        </Alert>
      )}
      {recovered.length > 0 && (
        <Alert severity="success" square onClose={dismissRecovered} role="status">
          {recovered.map(({ partName, take, seconds, placement }) => (
            <div
              key={`${partName}-${take}`}
            >{say`Recording had been cut off. Take ${take} of “${partName}” is recovered: ${formatTime(seconds, true)} ${recoveredWhere[placement.mode]}. Nothing else was changed.`}</div>
          ))}
        </Alert>
      )}
    </>
  );
}
