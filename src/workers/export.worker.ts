import { openDemoProject } from './demoProject';
import { archiveFiles, discardFiles, writeFile } from './exportFiles';
import type { ExportJobs } from './exportJobs';
import { openProjectFile, saveProjectFile } from './projectFile';
import { serveJobs } from './serve';

serveJobs<ExportJobs>({
  write: writeFile,
  archive: archiveFiles,
  discard: discardFiles,
  saveProject: saveProjectFile,
  openProject: openProjectFile,
  openDemo: openDemoProject,
});
