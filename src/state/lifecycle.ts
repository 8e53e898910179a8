import { forgetFindings } from './finding';
import { closeProject, openProject } from './projectActions';
import { closeTransport } from './recording';

/**
 * Opening and closing, one after another: closing ends a take, waits for what is being saved and gives the lock back, and
 * the next project is not opened before that is done.
 */
let queue: Promise<void> = Promise.resolve();

export function enterProject(id: string): Promise<void> {
  queue = queue.then(() => openProject(id));
  return queue;
}

export function leaveProject(): Promise<void> {
  queue = queue.then(closeTransport).then(closeProject).then(forgetFindings);
  return queue;
}
