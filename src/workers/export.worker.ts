import { openDemoProject } from './demoProject';
import { exportFiles } from './exportFiles';
import type { ExportJobs } from './exportJobs';
import { openProjectFile, saveProjectFile } from './projectFile';
import { serveJobs } from './serve';

serveJobs<ExportJobs>({
  export: exportFiles,
  saveProject: saveProjectFile,
  openProject: openProjectFile,
  openDemo: openDemoProject,
});
