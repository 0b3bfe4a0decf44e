/** The web server: the pages and routes of the application, behind the gate. */
import { createServer } from 'node:http';
import next from 'next';
import { GATE } from '../http/is-gated';
import { env } from '../env';
import { letIn } from './gate';

async function main(): Promise<void> {
  process.env[GATE] = String(process.pid);
  const { checkout: dir, port } = env();
  const hostname = process.env['ZERO_LATCH_BIND'] ?? '127.0.0.1';
  const pages = next({ dev: false, dir, hostname, port });
  await pages.prepare();
  const handle = pages.getRequestHandler();
  const server = createServer((request, response) => {
    letIn(request, response)
      .then((isIn) => (isIn ? handle(request, response) : undefined))
      .catch((error: unknown) => {
        process.stderr.write(`web: ${error instanceof Error ? error.stack : String(error)}\n`);
        if (!response.headersSent) response.writeHead(500);
        response.end();
      });
  });
  // A game of a hundred gigabytes is sent for hours.
  server.requestTimeout = 0;
  const leave = () => {
    server.close(() => process.exit(0));
    // Pages keep a connection open for events; shutdown does not wait for them.
    server.closeAllConnections();
  };
  process.on('SIGTERM', leave);
  process.on('SIGINT', leave);
  server.on('error', (error) => {
    process.stderr.write(`web: ${error.message}\n`);
    process.exit(1);
  });
  server.listen(port, hostname, () => process.stdout.write(`web ready on ${hostname}:${port}\n`));
}

void main().catch((error: unknown) => {
  process.stderr.write(`web: ${error instanceof Error ? error.stack : String(error)}\n`);
  process.exit(1);
});
