'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import CircularProgress from '@mui/material/CircularProgress';
import Typography from '@mui/material/Typography';
import dynamic from 'next/dynamic';
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { openDemo } from '@/state/files/demo';
import { openFolder } from '@/state/keep/openingCopy';
import { takeLaunched } from '@/state/files/launched';
import { openProjectFile } from '@/state/files/projectFiles';
import { askToKeep, lookAtSpace, useSpace } from '@/state/keep/browserSpace';
import { formatBytes } from '@/core/base/units';
import { notifyError } from '@/state/page/notices';
import { readProjects, sweepLeftovers, useProjects } from '@/state/project/projects';
import { beginFirstVisit, leaveFirstVisit, readFirstVisit, useFirstVisit } from '@/state/visit/firstVisit';
import { PageHeader } from '../../components/PageHeader';
import { HelpLink } from '../../components/HelpLink';
import { JobBar } from '../../components/JobBar';
import { QuestionDialog } from '../../components/QuestionDialog';
import { UpdateBanner } from '../../components/UpdateBanner';
import { useFolders } from '../../hooks/useFolders';

/** A first visit has no projects yet: the list and the form come when they are wanted. */
const ProjectList = dynamic(() => import('./ProjectList').then((loaded) => loaded.ProjectList));
const WorkDialog = dynamic(() => import('./WorkDialog').then((loaded) => loaded.WorkDialog));
const NewProjectDialog = dynamic(() =>
  import('./NewProjectDialog').then((loaded) => loaded.NewProjectDialog),
);

export function ProjectsView() {
  const list = useProjects((state) => state.list);
  const [creating, setCreating] = useState(false);
  const known = useFirstVisit((state) => state.known);
  const [workShown, setWorkShown] = useState(false);
  const router = useRouter();
  useEffect(() => {
    readProjects().catch(notifyError);
    sweepLeftovers();
    lookAtSpace().catch(notifyError);
    void readFirstVisit();
  }, []);
  useEffect(() => takeLaunched((id) => router.push(`/project/${id}/booth`)), [router]);
  const go = (id: string | null, screen = 'booth') => {
    if (id) router.push(`/project/${id}/${screen}`);
  };
  const demo = () => {
    // While it is set up, what it will be shown with is loaded.
    router.prefetch('/project/demo/booth');
    void openDemo().then((id) => go(id));
  };
  const showAround = () => {
    beginFirstVisit();
    demo();
  };
  return (
    <Box sx={{ minHeight: '100dvh', display: 'flex', flexDirection: 'column' }}>
      <PageHeader>
        <HelpLink about="projects" />
      </PageHeader>
      <UpdateBanner busy={false} />
      <Box component="main" sx={{ width: '100%', maxWidth: 980, mx: 'auto', px: 3, py: 5 }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mb: 3 }}>
          <Typography variant="h1" sx={{ flex: 1 }}>{say`Projects`}</Typography>
          <OpenFileButton onOpened={go} />
          {list && list.length > 0 && (
            <Button variant="outlined" color="inherit" onClick={demo}>{say`The demo`}</Button>
          )}
          <Button variant="contained" onClick={() => setCreating(true)}>{say`New project`}</Button>
        </Box>
        {list === null && <CircularProgress aria-label={say`Reading the projects`} />}
        {list?.length === 0 && <FirstVisit onDemo={demo} onShow={showAround} />}
        {list && list.length > 0 && !known && <ShowAround onShow={showAround} />}
        {list && list.length > 0 && <ProjectList list={list} onOpen={go} />}
        <BrowserRoom />
        {list && list.length > 0 && (
          <Button
            size="small"
            color="inherit"
            sx={{ mt: 1, ml: -1.5 }}
            onClick={() => setWorkShown(true)}
          >{say`Work log`}</Button>
        )}
      </Box>
      {creating && (
        <NewProjectDialog onClose={() => setCreating(false)} onCreated={(id) => go(id, 'brief')} />
      )}
      {workShown && <WorkDialog onClose={() => setWorkShown(false)} />}
      <JobBar />
      <QuestionDialog />
    </Box>
  );
}

/** What all projects take of this browser, and whether it will keep them. */
function BrowserRoom() {
  const { browser } = useSpace();
  const any = useProjects((state) => (state.list?.length ?? 0) > 0);
  if (!browser || !any) return null;
  const { usedBytes, freeBytes, persisted } = browser;
  return (
    <Typography color="text.secondary" sx={{ mt: 3, display: 'flex', alignItems: 'center', gap: 1.5 }}>
      <span>
        {say`${formatBytes(usedBytes)} are used in this browser`}
        {freeBytes !== null && say`; it says it allows ${formatBytes(freeBytes)} more`}.{' '}
        {persisted
          ? say`The browser has promised to keep them until you remove them yourself.`
          : say`The browser may clear them when the disk gets full.`}
      </span>
      {!persisted && (
        <Button
          size="small"
          variant="outlined"
          color="inherit"
          sx={{ flexShrink: 0 }}
          onClick={() => void askToKeep()}
        >{say`Ask it to keep them`}</Button>
      )}
    </Typography>
  );
}

/** Offered until it was gone through or left. */
function ShowAround({ onShow }: { onShow: () => void }) {
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 2 }}>
      <Typography
        color="text.secondary"
        sx={{ flex: 1 }}
      >{say`First time here? The whole job in five steps, done for real in the demo.`}</Typography>
      <Button size="small" variant="outlined" color="inherit" onClick={onShow}>{say`Show me`}</Button>
      <Button size="small" color="inherit" onClick={leaveFirstVisit}>{say`Not needed`}</Button>
    </Box>
  );
}

function FirstVisit({ onDemo, onShow }: { onDemo: () => void; onShow: () => void }) {
  return (
    <Box
      sx={{
        border: 1,
        borderColor: 'divider',
        borderRadius: 3,
        bgcolor: 'background.paper',
        p: 5,
        maxWidth: 640,
      }}
    >
      <Typography variant="h2" sx={{ mb: 1 }}>{say`Nothing recorded on this machine yet`}</Typography>
      <Typography sx={{ mb: 3 }}>
        {say`Look around in `}
        <em>{say`The Lamp House`}</em>
        {say` first: an audio guide that is already recorded, with flubs to fix and a practice reader that stands in for a microphone. Or start a project of your own. Everything stays on this machine.`}
      </Typography>
      <Box sx={{ display: 'flex', gap: 1.5 }}>
        <Button variant="contained" onClick={onDemo}>{say`Open the demo`}</Button>
        <Button
          variant="outlined"
          color="inherit"
          onClick={onShow}
        >{say`Show me the whole job in five steps`}</Button>
      </Box>
    </Box>
  );
}

function OpenFileButton({ onOpened }: { onOpened: (id: string | null) => void }) {
  const folders = useFolders();
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button
        variant="outlined"
        color="inherit"
        onClick={() => input.current?.click()}
      >{say`Open a project file`}</Button>
      {folders && (
        <Button
          variant="outlined"
          color="inherit"
          onClick={() => void openFolder().then(onOpened).catch(notifyError)}
        >{say`Open a folder`}</Button>
      )}
      <input
        ref={input}
        type="file"
        accept=".parola,.zip"
        aria-label={say`Project file`}
        hidden
        multiple
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = '';
          if (files.length > 0) void openProjectFile(files).then(onOpened);
        }}
      />
    </>
  );
}
