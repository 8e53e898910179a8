import { readScript } from './scriptFile';
import type { ScriptJobs } from './scriptJobs';
import { serveJobs } from './serve';

serveJobs<ScriptJobs>({ read: readScript });
