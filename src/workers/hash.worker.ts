import { createSHA256 } from 'hash-wasm';
import type { HashJobs } from './hashJobs';
import { serveJobs } from './serve';

/** One file at a time: bytes come in their order. */
const hash = createSHA256();

serveJobs<HashJobs>({
  async begin() {
    (await hash).init();
    return null;
  },
  async update({ bytes }) {
    (await hash).update(bytes);
    return null;
  },
  async end() {
    return (await hash).digest('hex');
  },
});
