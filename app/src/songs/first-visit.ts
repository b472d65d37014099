import { inject } from '@angular/core';
import { SongStore } from '../storage/song-store';
import { Importer } from './importer';
import { rememberVisit } from './visited';

/** The songs are shown if the demo is not open after so many ms. */
const PATIENCE_MS = 1500;

/**
 * A first visit begins with the demo song, before the songs are shown. They are shown where the demo cannot be opened or
 * takes long. Once it has come then, it is opened for a user who has done nothing yet; it takes nobody away from anything.
 */
export async function beginWithDemo(): Promise<void> {
  const importer = inject(Importer);
  const songs = inject(SongStore);
  const reading = importer.readDemo();
  const count = await songs.count();
  rememberVisit();
  if (count > 0) return;
  const acted = watchHands();
  await Promise.race([importer.demo(reading, () => !acted()), new Promise((done) => setTimeout(done, PATIENCE_MS))]);
}

/** Tells whether the user has pressed anything since. */
function watchHands(): () => boolean {
  let acted = false;
  const act = () => (acted = true);
  for (const type of ['pointerdown', 'keydown']) addEventListener(type, act, { once: true, capture: true });
  return () => acted;
}
