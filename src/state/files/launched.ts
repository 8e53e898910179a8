import { say } from '@/texts/say';
import { builtInSpecs } from '@/core/specs/builtIn';
import { notify, notifyError } from '../page/notices';
import { createProject } from '../project/projects';
import { maybeSound, offerFiles } from './importing';
import { openProjectFile } from './projectFiles';

declare global {
  interface Window {
    /** Files that the installed application is opened with (W3C, Web Application Launch Handler). */
    launchQueue?: {
      setConsumer(take: (launched: { files?: readonly FileSystemFileHandle[] }) => void): void;
    };
  }
}

/** Sound files that wait for the project that is being opened for them. */
let waiting: File[] = [];

/**
 * Takes files that the installed application is opened with: a project file is opened; sound files are
 * offered for import into a new project that is called after the first of them. `go` is told which project.
 */
export function takeLaunched(go: (projectId: string) => void): void {
  window.launchQueue?.setConsumer(({ files = [] }) => {
    void open(files)
      .then((project) => project !== null && go(project))
      .catch((thrown: unknown) => notifyError(thrown, 'projects'));
  });
}

async function open(handles: readonly FileSystemFileHandle[]): Promise<string | null> {
  const files = await Promise.all(handles.map((handle) => handle.getFile()));
  const projects = files.filter(({ name }) => /\.parola$/i.test(name));
  if (projects.length > 0) return openProjectFile(projects);
  const sounds = files.filter(maybeSound);
  if (sounds.length === 0) {
    if (files.length > 0)
      notify('info', say`“${files[0].name}” is neither a project file nor sound: nothing was opened.`);
    return null;
  }
  const [spec] = builtInSpecs;
  waiting = sounds;
  // Each sound becomes a part.
  return createProject(sounds[0].name.replace(/\.\w+$/, ''), spec, spec.file.rateHz, []);
}

/** Offers the files that a project was opened for; to be called once it is open. */
export function offerLaunched(): void {
  const files = waiting;
  waiting = [];
  if (files.length > 0) void offerFiles(files);
}
