import { join } from 'node:path';
import { createServer } from './server';

const port = Number(process.env['PORT'] ?? 4600);
if (!Number.isInteger(port) || port < 1 || port > 65535) {
  console.error(`PORT is “${process.env['PORT']}”, but a port is a number from 1 to 65535.`);
  process.exit(1);
}

// Only this machine, unless it is opened to others: HOST=0.0.0.0 is every address of it.
const host = process.env['HOST'] ?? 'localhost';

const server = createServer(join(process.cwd(), 'dist/app')).listen(port, host, (error?: Error & { code?: string }) => {
  if (!error) {
    console.log(`Early Sparrow is open at http://${host === '0.0.0.0' || host === '::' ? 'localhost' : host}:${port}/`);
    return;
  }
  const told: Partial<Record<string, string>> = {
    EADDRINUSE: `Port ${port} is taken by another program. Choose another one: PORT=${port + 1} npm start`,
    EADDRNOTAVAIL: `HOST is “${host}”, which is not an address of this machine. Leave it out, or set HOST=0.0.0.0.`,
    ENOTFOUND: `HOST is “${host}”, which is not an address of this machine. Leave it out, or set HOST=0.0.0.0.`,
    EACCES: `The system does not allow port ${port}. Choose one above 1023: PORT=4600 npm start`,
  };
  console.error(told[error.code ?? ''] ?? `The server could not start: ${error.message}`);
  process.exit(1);
});
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => server.close(() => process.exit(0)));
