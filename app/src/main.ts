import { bootstrapApplication } from '@angular/platform-browser';
import { appConfig } from './app.config';
import { App } from './app';

// The page that is asked for is fetched while the program starts.
const { pathname } = location;
if (pathname === '/') void import('./songs/songs-page');
else if (pathname.startsWith('/song/')) void import('./desk/desk-page');

bootstrapApplication(App, appConfig).catch((error: unknown) => console.error(error));
