import type { ChildProcess } from 'node:child_process';

export default function teardown() {
  (globalThis as { parolaServer?: ChildProcess }).parolaServer?.kill();
}
