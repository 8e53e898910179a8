// Serves the built application: `node scripts/serve.mjs [PORT]`, 3000 when none is given.
import { createServer } from 'node:http';

// Before the framework is loaded: it reads it then.
process.env.NODE_ENV = 'production';
const { default: next } = await import('next');

const port = Number(process.argv[2] ?? process.env.PORT ?? 3000);
const application = next({ dev: false, port });
const answer = application.getRequestHandler();
await application.prepare();

/**
 * A page is read, and nothing is sent: other methods (TRACE among them, which the framework throws at) end
 * here.
 */
const methods = ['GET', 'HEAD', 'OPTIONS', 'POST'];

const server = createServer((request, response) => {
  if (methods.includes(request.method ?? '')) {
    void answer(request, response);
    return;
  }
  response.writeHead(405, { Allow: methods.join(', '), 'Content-Type': 'text/plain; charset=utf-8' });
  response.end(`This server does not answer to ${request.method}.\n`);
});
server.on('error', (error) => {
  console.error(
    error.code === 'EADDRINUSE'
      ? `Port ${port} is in use. Choose another one: PORT=${port + 1}.`
      : `The server cannot be started: ${error.message}`,
  );
  process.exit(1);
});
server.listen(port);
