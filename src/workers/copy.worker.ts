import { damageOf } from '@/storage/integrity';
import { checkCopy } from './checkCopy';
import type { CopyJobs } from './copyJobs';
import { copyAhead, copyRound } from './copyRound';
import { repairSources } from './repairSource';
import { serveJobs } from './serve';

serveJobs<CopyJobs>({
  round: copyRound,
  ahead: copyAhead,
  check: checkCopy,
  damage: ({ projectId }, { signal }) => damageOf(projectId, signal),
  repair: repairSources,
});
