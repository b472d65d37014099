import { bootstrapApplication } from '@angular/platform-browser';
import { appConfig } from './app.config';
import { App } from './app';

// The page that is asked for is fetched while the program starts.
void (location.pathname.startsWith('/song/') ? import('./desk/desk-page') : import('./songs/songs-page'));

bootstrapApplication(App, appConfig).catch((error: unknown) => console.error(error));
