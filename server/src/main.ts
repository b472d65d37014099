import { join } from 'node:path';
import { createServer } from './server';

const port = Number(process.env['PORT'] ?? 4600);
if (!Number.isInteger(port) || port < 1 || port > 65535) {
  console.error(`PORT is “${process.env['PORT']}”, but a port is a number from 1 to 65535.`);
  process.exit(1);
}

const server = createServer(join(process.cwd(), 'dist/app')).listen(port, (error?: Error & { code?: string }) => {
  if (!error) {
    console.log(`Early Sparrow is open at http://localhost:${port}/`);
    return;
  }
  console.error(
    error.code === 'EADDRINUSE'
      ? `Port ${port} is taken by another program. Choose another one: PORT=${port + 1} npm start`
      : `The server could not start: ${error.message}`,
  );
  process.exit(1);
});
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => server.close(() => process.exit(0)));
