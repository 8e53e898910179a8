'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import CircularProgress from '@mui/material/CircularProgress';
import Typography from '@mui/material/Typography';
import dynamic from 'next/dynamic';
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { openDemo } from '@/state/files/demo';
import { openProjectFile } from '@/state/files/projectFiles';
import { notifyError } from '@/state/page/notices';
import { readProjects, sweepLeftovers, useProjects } from '@/state/project/projects';
import { Brand } from '../../components/Brand';
import { JobBar } from '../../components/JobBar';
import { ThemeToggle } from '../../components/ThemeToggle';

/** A first visit has no projects yet: the list and the form come when they are wanted. */
const ProjectList = dynamic(() => import('./ProjectList').then((loaded) => loaded.ProjectList));
const NewProjectDialog = dynamic(() =>
  import('./NewProjectDialog').then((loaded) => loaded.NewProjectDialog),
);

export function ProjectsView() {
  const list = useProjects((state) => state.list);
  const [creating, setCreating] = useState(false);
  const router = useRouter();
  useEffect(() => {
    readProjects().catch(notifyError);
    sweepLeftovers();
  }, []);
  const go = (id: string | null, screen = 'booth') => {
    if (id) router.push(`/project/${id}/${screen}`);
  };
  const demo = () => {
    // While it is set up, what it will be shown with is loaded.
    router.prefetch('/project/demo/booth');
    void openDemo().then((id) => go(id));
  };
  return (
    <Box sx={{ minHeight: '100dvh', display: 'flex', flexDirection: 'column' }}>
      <Box
        component="header"
        sx={{
          display: 'flex',
          alignItems: 'center',
          justifyContent: 'space-between',
          px: 2,
          height: 52,
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        <Brand />
        <ThemeToggle />
      </Box>
      <Box component="main" sx={{ width: '100%', maxWidth: 980, mx: 'auto', px: 3, py: 5 }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mb: 3 }}>
          <Typography variant="h1" sx={{ flex: 1 }}>
            Projects
          </Typography>
          <OpenFileButton onOpened={go} />
          {list && list.length > 0 && (
            <Button variant="outlined" color="inherit" onClick={demo}>
              The demo
            </Button>
          )}
          <Button variant="contained" onClick={() => setCreating(true)}>
            New project
          </Button>
        </Box>
        {list === null && <CircularProgress aria-label="Reading the projects" />}
        {list?.length === 0 && <FirstVisit onDemo={demo} />}
        {list && list.length > 0 && <ProjectList list={list} onOpen={go} />}
      </Box>
      {creating && (
        <NewProjectDialog onClose={() => setCreating(false)} onCreated={(id) => go(id, 'brief')} />
      )}
      <JobBar />
    </Box>
  );
}

function FirstVisit({ onDemo }: { onDemo: () => void }) {
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
      <Typography variant="h2" sx={{ mb: 1 }}>
        Nothing recorded on this machine yet
      </Typography>
      <Typography sx={{ mb: 3 }}>
        Look around in <em>The Lamp House</em> first: an audio guide that is already recorded, with flubs to
        fix and a practice reader that stands in for a microphone. Or start a project of your own. Everything
        stays on this machine.
      </Typography>
      <Button variant="contained" onClick={onDemo}>
        Open the demo
      </Button>
    </Box>
  );
}

function OpenFileButton({ onOpened }: { onOpened: (id: string | null) => void }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button variant="outlined" color="inherit" onClick={() => input.current?.click()}>
        Open a project file
      </Button>
      <input
        ref={input}
        type="file"
        accept=".parola,.zip"
        aria-label="Project file"
        hidden
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = '';
          if (file) void openProjectFile(file).then(onOpened);
        }}
      />
    </>
  );
}
