import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync } from 'node:fs';

export const port = Number(process.env.PAROLA_PORT ?? 4173);
export const baseUrl = `http://localhost:${port}`;

const answers = () =>
  fetch(baseUrl).then(
    (response) => response.ok,
    () => false,
  );

/**
 * Starts the built application and waits until it answers. Throws when it has not been built or does not come
 * up.
 */
export async function startServer(): Promise<ChildProcess> {
  if (!existsSync('.next/BUILD_ID')) throw new Error('Build the application first: npm run build');
  if (await answers()) throw new Error(`Something else answers at ${baseUrl}: stop it, or set PAROLA_PORT`);
  mkdirSync('.cache', { recursive: true });
  const server = spawn(process.execPath, ['scripts/serve.mjs', String(port)], {
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' },
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  const until = Date.now() + 60_000;
  while (Date.now() < until) {
    if (await answers()) return server;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  server.kill();
  throw new Error('The application did not answer within a minute');
}
