import { type ApplicationConfig, provideBrowserGlobalErrorListeners } from '@angular/core';
import { MAT_RIPPLE_GLOBAL_OPTIONS } from '@angular/material/core';
import {
  provideRouter,
  RouteReuseStrategy,
  withComponentInputBinding,
  withPreloading,
  type Routes,
} from '@angular/router';
import { provideServiceWorker } from '@angular/service-worker';
import { provideEffects } from '@ngrx/effects';
import { provideStore } from '@ngrx/store';
import { atRest } from './common/at-rest';
import { PreloadLater } from './common/preload-later';
import { firstVisitGuard } from './songs/first-visit.guard';
import { KeepingEffects } from './state/keeping.effects';
import { deskFeature } from './state/desk.feature';
import { OwnDesk } from './state/own-desk';
import { unwrittenGuard } from './state/unwritten.guard';

const routes: Routes = [
  {
    path: '',
    canActivate: [firstVisitGuard],
    loadComponent: () => import('./songs/songs-page').then((m) => m.SongsPage),
    title: 'Songs · Early Sparrow',
  },
  {
    path: 'song/:id',
    loadComponent: () => import('./desk/desk-page').then((m) => m.DeskPage),
    canDeactivate: [unwrittenGuard],
    title: 'Early Sparrow',
  },
  {
    path: 'files',
    loadComponent: () => import('./batch/batch-page').then((m) => m.BatchPage),
    title: 'Many files · Early Sparrow',
  },
  { path: '**', redirectTo: '' },
];

export const appConfig: ApplicationConfig = {
  providers: [
    provideBrowserGlobalErrorListeners(),
    // On a first visit the worker fetches the whole program, and on this machine's own address every request waits for
    // it: it comes when the page has been left alone for a while.
    provideServiceWorker('worker.js', { registrationStrategy: () => atRest(12_000, 4000) }),
    provideRouter(routes, withComponentInputBinding(), withPreloading(PreloadLater)),
    { provide: RouteReuseStrategy, useClass: OwnDesk },
    // The song holds typed arrays, which cannot be frozen; it is immutable by how it is made.
    provideStore(
      { [deskFeature.name]: deskFeature.reducer },
      { runtimeChecks: { strictStateImmutability: false, strictActionImmutability: false } },
    ),
    provideEffects(KeepingEffects),
    // Ripples belong to another paper than ours.
    { provide: MAT_RIPPLE_GLOBAL_OPTIONS, useValue: { disabled: true } },
  ],
};
