// Installs, builds and starts Parola; the first visit offers the demo project.
import { spawn } from 'node:child_process';
import { buildApplication, installPackages } from './setup/install.mjs';

const port = process.env.PORT ?? '3000';
await installPackages();
if (!(await buildApplication())) process.exit(1);

const server = spawn(process.execPath, ['scripts/serve.mjs', port], {
  stdio: ['ignore', 'ignore', 'inherit'],
});
server.on('exit', (code) => process.exit(code ?? 1));
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));

const address = `http://localhost:${port}`;
const answers = () =>
  fetch(address).then(
    (response) => response.ok,
    () => false,
  );
while (!(await answers())) await new Promise((resolve) => setTimeout(resolve, 200));
console.log(
  `\nParola is at ${address}\nPress Ctrl+C to stop it. What you record stays in the browser's storage on this machine.`,
);
