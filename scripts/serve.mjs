// Serves the built application: `node scripts/serve.mjs [PORT]`, 3000 when none is given. It can be reached
// from this machine alone, unless HOST says where else it is to listen. NAMES has the names by which a studio
// publishes it, with commas between (docs/remote.md).
import { createServer } from 'node:http';
import onHeaders from 'on-headers';
import { allowed, namesIn, refusal, usualHeaders, usualHost } from './server/guards.mjs';

// Before the framework is loaded: it reads it then.
process.env.NODE_ENV = 'production';
const { default: next } = await import('next');

const port = Number(process.argv[2] ?? process.env.PORT ?? 3000);
const host = process.env.HOST ?? usualHost;
const names = namesIn(process.env.NAMES);
const application = next({ dev: false, port, hostname: host });
const answer = application.getRequestHandler();
await application.prepare();

const server = createServer((request, response) => {
  onHeaders(response, () => {
    for (const [name, value] of Object.entries(usualHeaders))
      if (!response.hasHeader(name)) response.setHeader(name, value);
  });
  const refused = refusal({ method: request.method ?? '', headers: request.headers }, host, names);
  if (!refused) {
    void answer(request, response);
    return;
  }
  if (refused.status === 405) response.setHeader('Allow', allowed);
  response.writeHead(refused.status, { 'Content-Type': 'text/plain; charset=utf-8' });
  response.end(`${refused.text}\n`);
});
server.on('error', (error) => {
  console.error(
    error.code === 'EADDRINUSE'
      ? `Port ${port} is in use. Choose another one: PORT=${port + 1}.`
      : `The server cannot be started: ${error.message}`,
  );
  process.exit(1);
});
server.listen(port, host);
