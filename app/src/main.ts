import { bootstrapApplication } from '@angular/platform-browser';
import { appConfig } from './app.config';
import { App } from './app';
import { isFirstVisit } from './songs/visited';

// The page that is asked for is fetched while the program starts.
const { pathname } = location;
const first = pathname === '/' && isFirstVisit();
if (first) void import('./songs/first-visit');
else if (pathname === '/') void import('./songs/songs-page');
if (first || pathname.startsWith('/song/')) {
  void import('./desk/desk-page');
  // The desk would be laid out once more when the font of its numbers comes.
  for (const weight of [400, 600]) void document.fonts.load(`${weight} 1em "Atkinson Hyperlegible Mono"`);
}

bootstrapApplication(App, appConfig).catch((error: unknown) => console.error(error));
