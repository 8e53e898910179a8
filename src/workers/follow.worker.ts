import { say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import type { FollowJobs } from './followJobs';
import { Following } from './following';
import { serveJobs } from './serve';

let following: Following | null = null;

function begun(): Following {
  if (!following) throw new ParolaError('not-found', say`No file was begun to be followed.`);
  return following;
}

/** One file at a time. */
serveJobs<FollowJobs>({
  async begin({ settings }) {
    following = await Following.create(settings);
    return null;
  },
  async take({ bytes }) {
    await begun().take(bytes);
    return null;
  },
  end: () => begun().end(),
});
