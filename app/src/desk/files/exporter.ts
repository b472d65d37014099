import { inject, Injectable } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import { Store } from '@ngrx/store';
import { fileSave } from 'browser-fs-access';
import { writeSmf } from '@early-sparrow/core/smf';
import type { Song } from '@early-sparrow/core/song';
import { perform } from '@early-sparrow/core/treatment';
import { deskFeature, type Compare } from '../../state/desk.feature';
import { Following, FollowingFault } from '../hand/following';

/** Why no file is written where following failed. */
export const NOT_FOLLOWED =
  'The lines that follow the player could not be found, so no file was written. Try again, or choose the nearest lines.';

/** Writes files from the open song. */
@Injectable({ providedIn: 'root' })
export class Exporter {
  private readonly snack = inject(MatSnackBar);
  private readonly following = inject(Following, { optional: true });
  private readonly song = inject(Store).selectSignal(deskFeature.selectSong);

  /** A standard MIDI file of the song as played or as corrected. */
  async midi(which: Compare): Promise<void> {
    const song = this.song();
    if (!song) return;
    // The song as it is: what is being tried is not in it, and lines that are still being found are waited for.
    const write = (song: Song) => writeSmf(song, perform(song, which));
    let bytes: Uint8Array;
    try {
      bytes = this.following ? await this.following.whole(song, write) : write(song);
    } catch (error) {
      if (!(error instanceof FollowingFault)) throw error;
      this.snack.open(NOT_FOLLOWED, 'Close');
      return;
    }
    const side = which === 'played' ? 'as played' : 'corrected';
    const name = `${fileName(`${song.name} (${side})`)}.mid`;
    await this.save(new Blob([bytes as BlobPart], { type: 'audio/midi' }), name, '.mid');
  }

  /** Sound that was rendered. @param name without its ending */
  wav(bytes: Uint8Array, name: string): Promise<boolean> {
    return this.save(new Blob([bytes as BlobPart], { type: 'audio/wav' }), `${fileName(name)}.wav`, '.wav');
  }

  /** What is kept of a song, just as it is, as JSON; bytes go as lists of numbers. */
  record(id: string, record: unknown): Promise<boolean> {
    const plain = (_: string, value: unknown) => (value instanceof Uint8Array ? [...value] : value);
    const blob = new Blob([JSON.stringify(record, plain, 1)], { type: 'application/json' });
    return this.save(blob, `Early Sparrow song ${id.slice(0, 8)}.json`, '.json');
  }

  /** Whether a file was written. */
  private async save(blob: Blob, name: string, extension: string): Promise<boolean> {
    try {
      await fileSave(blob, { fileName: name, extensions: [extension] });
      this.snack.open(`“${name}” was written.`, undefined, { duration: 4000 });
      return true;
    } catch (error) {
      // Closing the file window is no error.
      if (error instanceof DOMException && error.name === 'AbortError') return false;
      this.snack.open(`“${name}” could not be written. Choose another folder and try again.`, 'Close');
      return false;
    }
  }
}

/** A name without what file systems do not take. */
function fileName(name: string): string {
  return name.replace(/[\\/:*?"<>|]/g, '-');
}
