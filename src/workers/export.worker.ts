import { openDemoProject } from './demoProject';
import { archiveFiles, clearOldFiles, discardFiles, writeFile } from './exportFiles';
import type { ExportJobs } from './exportJobs';
import { writeFilmWithLines } from './filmWithLines';
import { findCopies, openCopyFolder } from './openCopyFolder';
import { openProjectFile, sweepOpenings } from './openProjectFile';
import { openRecordings, saveRecordings } from './recordingsFile';
import { saveProjectFile } from './saveProjectFile';
import { serveJobs } from './serve';

serveJobs<ExportJobs>({
  write: writeFile,
  film: writeFilmWithLines,
  archive: archiveFiles,
  discard: discardFiles,
  saveProject: saveProjectFile,
  openProject: openProjectFile,
  findCopies,
  openCopy: openCopyFolder,
  saveRecordings,
  openRecordings,
  sweep: async () => {
    await clearOldFiles();
    return sweepOpenings();
  },
  openDemo: openDemoProject,
});
