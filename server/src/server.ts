import { randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join, posix } from 'node:path';
import compression from 'compression';
import express, { type Express, type Request, type Response } from 'express';
import staticFiles from 'express-static-gzip';
import helmet from 'helmet';

const NONCE_MARK = '__CSP_NONCE__';
const YEAR_MS = 365 * 24 * 3600 * 1000;
/** What the application does without, so that nothing in it can ask for it. */
const NOTHING_ALLOWED = [
  'accelerometer',
  'camera',
  'display-capture',
  'geolocation',
  'gyroscope',
  'magnetometer',
  'microphone',
  'payment',
  'usb',
]
  .map((feature) => `${feature}=()`)
  // MIDI devices are asked for when the user wants them, by this page alone; system exclusive messages are not.
  .concat('midi=(self)')
  .join(', ');
/** What the build leaves beside the application and nobody outside has to see. */
const PRIVATE = /^\/(stats\.json|\.|prerendered-routes\.json)/;
/** A path is judged by the file that it means: decoded, and without steps back or doubled slashes. */
function isPrivate(path: string): boolean {
  try {
    return PRIVATE.test(posix.normalize(`/${decodeURIComponent(path)}`.replaceAll('\\', '/')));
  } catch {
    // What cannot be decoded names no file.
    return true;
  }
}

/** Files whose names carry a hash of their contents never change. */
const HASHED = /-[\w-]{8}\.(js|css|woff2?)(\.br)?$/;

/**
 * Serves the built application from one folder and nothing else.
 * Scripts and requests are allowed from this server alone, styles by a nonce that is new for every page.
 * @param folder the built application, with its page.html
 */
export function createServer(folder: string): Express {
  const page = readFileSync(join(folder, 'page.html'), 'utf8');
  const app = express();
  app.disable('x-powered-by');
  app.use((_request, response, next) => {
    response.locals['nonce'] = randomBytes(16).toString('base64');
    next();
  });
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'none'"],
          // The decoder of compressed sounds is WebAssembly; nothing else is evaluated.
          scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
          workerSrc: ["'self'"],
          styleSrc: ["'self'", (_request, response) => `'nonce-${(response as Response).locals['nonce'] as string}'`],
          imgSrc: ["'self'", 'data:', 'blob:'],
          fontSrc: ["'self'"],
          connectSrc: ["'self'"],
          manifestSrc: ["'self'"],
          baseUri: ["'self'"],
          formAction: ["'none'"],
          frameAncestors: ["'none'"],
        },
      },
      strictTransportSecurity: false,
      // As the policy's frame-ancestors says, for browsers that do not read that.
      xFrameOptions: { action: 'deny' },
    }),
  );
  app.use((_request, response, next) => {
    response.setHeader('Permissions-Policy', NOTHING_ALLOWED);
    next();
  });
  app.use(compression());
  const sendPage = (_request: Request, response: Response) => {
    response.setHeader('Cache-Control', 'no-store');
    response.type('html').send(page.replaceAll(NONCE_MARK, response.locals['nonce'] as string));
  };
  app.get('/index.html', sendPage);
  // As a file the page has its mark in place of a nonce: for the service worker, which puts in one of its own.
  app.get('/page.html', (_request, response) => {
    response.setHeader('Cache-Control', 'no-cache');
    response.type('text').send(page);
  });
  app.use((request, response, next) => {
    if (isPrivate(request.path)) response.status(404).type('text').send('There is no such file.');
    else next();
  });
  app.use(
    // Sends the compressed file that the build left beside a file, to browsers that can read it.
    staticFiles(folder, {
      enableBrotli: true,
      orderPreference: ['br'],
      index: false,
      serveStatic: {
        index: false,
        dotfiles: 'deny',
        setHeaders: (response, path) => {
          const lasting = HASHED.test(path);
          response.setHeader('Cache-Control', lasting ? `public, max-age=${YEAR_MS / 1000}, immutable` : 'no-cache');
        },
      },
    }),
  );
  app.get(/.*/, (request: Request, response: Response) => {
    // Only pages of the application: a missing file stays missing.
    if (/\.[a-z0-9]+$/i.test(request.path)) {
      response.status(404).type('text').send('There is no such file.');
      return;
    }
    sendPage(request, response);
  });
  return app;
}
