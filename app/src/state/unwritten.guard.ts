import { inject } from '@angular/core';
import type { CanDeactivateFn } from '@angular/router';
import { Store } from '@ngrx/store';
import { deskFeature } from './desk.feature';

/** A song whose steps cannot be written is not left without a word: they are nowhere but here. */
export const unwrittenGuard: CanDeactivateFn<unknown> = () => {
  const { unsaved, trouble } = inject(Store).selectSignal(deskFeature.selectWriting)();
  if (trouble === null || unsaved === 0) return true;
  return confirm('Your last changes are not saved and would be lost. Leave the song anyway?');
};
