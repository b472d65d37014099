import { randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import compression from 'compression';
import express, { type Express, type Request, type Response } from 'express';
import helmet from 'helmet';

const NONCE_MARK = '__CSP_NONCE__';
const YEAR_MS = 365 * 24 * 3600 * 1000;
/** Files whose names carry a hash of their contents never change. */
const HASHED = /-[A-Z0-9]{8}\.(js|css|woff2?)$/;

/**
 * Serves the built application from one folder and nothing else.
 * Scripts and requests are allowed from this server alone, styles by a nonce that is new for every page.
 * @param folder the built application, with its index.html
 */
export function createServer(folder: string): Express {
  const page = readFileSync(join(folder, 'index.html'), 'utf8');
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
          scriptSrc: ["'self'"],
          workerSrc: ["'self'"],
          styleSrc: ["'self'", (_request, response) => `'nonce-${(response as Response).locals['nonce'] as string}'`],
          imgSrc: ["'self'", 'data:', 'blob:'],
          fontSrc: ["'self'"],
          connectSrc: ["'self'"],
          baseUri: ["'self'"],
          formAction: ["'none'"],
          frameAncestors: ["'none'"],
        },
      },
      strictTransportSecurity: false,
    }),
  );
  app.use(compression());
  app.use(
    express.static(folder, {
      index: false,
      dotfiles: 'deny',
      setHeaders: (response, path) => {
        const lasting = HASHED.test(path);
        response.setHeader('Cache-Control', lasting ? `public, max-age=${YEAR_MS / 1000}, immutable` : 'no-cache');
      },
    }),
  );
  app.get(/.*/, (request: Request, response: Response) => {
    // Only pages of the application: a missing file stays missing.
    if (/\.[a-z0-9]+$/i.test(request.path)) {
      response.status(404).type('text').send('There is no such file.');
      return;
    }
    response.setHeader('Cache-Control', 'no-store');
    response.type('html').send(page.replaceAll(NONCE_MARK, response.locals['nonce'] as string));
  });
  return app;
}
