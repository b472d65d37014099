import { inject, Injectable } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import { Store } from '@ngrx/store';
import { fileSave } from 'browser-fs-access';
import { writeSmf } from '@early-sparrow/core/smf';
import { perform } from '@early-sparrow/core/treatment';
import { deskFeature, type Compare } from '../state/desk.feature';

/** Writes files from the open song. */
@Injectable({ providedIn: 'root' })
export class Exporter {
  private readonly snack = inject(MatSnackBar);
  private readonly song = inject(Store).selectSignal(deskFeature.selectSong);

  /** A standard MIDI file of the song as played or as corrected. */
  async midi(which: Compare): Promise<void> {
    const song = this.song();
    if (!song) return;
    // The song as it is: what is being tried is not in it.
    const bytes = writeSmf(song, perform(song, which));
    const side = which === 'played' ? 'as played' : 'corrected';
    const name = `${song.name.replace(/[\\/:*?"<>|]/g, '-')} (${side}).mid`;
    try {
      await fileSave(new Blob([bytes as BlobPart], { type: 'audio/midi' }), { fileName: name, extensions: ['.mid'] });
      this.snack.open(`“${name}” was written.`, undefined, { duration: 4000 });
    } catch (error) {
      // Closing the file window is no error.
      if (error instanceof DOMException && error.name === 'AbortError') return;
      this.snack.open(`“${name}” could not be written. Choose another folder and try again.`, 'Close');
    }
  }
}
