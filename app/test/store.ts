import { provideStore } from '@ngrx/store';
import { deskFeature } from '../src/state/desk.feature';

/** The desk's state as the application provides it: songs hold typed arrays, which cannot be frozen. */
export const provideDeskStore = (): ReturnType<typeof provideStore> =>
  provideStore(
    { [deskFeature.name]: deskFeature.reducer },
    { runtimeChecks: { strictStateImmutability: false, strictActionImmutability: false } },
  );
