import { inject, Injectable } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import { Store } from '@ngrx/store';
import { makeOutput, type OutputFile, type OutputWishes } from '@early-sparrow/core/batch';
import { fileName } from '@early-sparrow/core/keeping';
import type { Song } from '@early-sparrow/core/song';
import { Saving } from '../../common/saving';
import { SONG_FILE_ENDING, SONG_FILE_TYPE } from '../../common/file-kinds';
import { Handles } from '../../storage/handles';
import { recordJson } from '../../storage/record-json';
import { SongFiles } from '../../storage/song-files';
import { deskFeature, type Compare } from '../../state/desk.feature';
import { Following, FollowingFault } from '../hand/following';

/** Why no file is written where following failed. */
export const NOT_FOLLOWED =
  'The lines that follow the player could not be found, so no file was written. Try again, or choose the nearest lines.';

/** Writes files from the open song. */
@Injectable({ providedIn: 'root' })
export class Exporter {
  private readonly snack = inject(MatSnackBar);
  private readonly saving = inject(Saving);
  private readonly handles = inject(Handles);
  private readonly songFiles = inject(SongFiles);
  private readonly following = inject(Following, { optional: true });
  private readonly store = inject(Store);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly songId = this.store.selectSignal(deskFeature.selectSongId);
  private readonly history = this.store.selectSignal(deskFeature.selectHistory);

  /** A standard MIDI file of the song as played or as corrected. */
  async midi(side: Compare): Promise<void> {
    await this.output({ wanted: { what: 'song' }, side, form: 'midi', place: 'own' });
  }

  /** A file of the song, or of something in it. */
  async output(wishes: OutputWishes): Promise<void> {
    const file = await this.make(wishes);
    if (file) await this.saving.save(blobOf(file), file.name);
  }

  /** The same file, not yet written. Null without a song, or where its lines cannot be found: a message says so. */
  async make(wishes: OutputWishes): Promise<OutputFile | null> {
    const song = this.song();
    if (!song) return null;
    // The song as it is: what is being tried is not in it, and lines that are still being found are waited for.
    const make = (song: Song) => makeOutput(song, wishes);
    try {
      return this.following ? await this.following.whole(song, make) : make(song);
    } catch (error) {
      if (!(error instanceof FollowingFault)) throw error;
      this.snack.open(NOT_FOLLOWED, 'Close');
      return null;
    }
  }

  /**
   * The song with its history and its sound files. It goes into the file that it came from, where the browser allows
   * it; that file stays whole until the new one is.
   */
  async songFile({ withHistory = true, elsewhere = false } = {}): Promise<void> {
    const [id, history] = [this.songId(), this.history()];
    if (!history || id === null) return;
    const bytes = this.songFiles.write(id, history, withHistory);
    const blob = bytes.then((b) => new Blob([b as BlobPart], { type: SONG_FILE_TYPE }));
    const before = elsewhere ? undefined : await this.handles.of(id);
    const name = `${fileName(history.song.name)}${SONG_FILE_ENDING}`;
    const handle = await this.saving.save(blob, name, before);
    if (handle) await this.handles.keep(id, handle);
  }

  /** Sound that was rendered. @param name without its ending */
  async wav(bytes: Uint8Array, name: string): Promise<boolean> {
    const blob = new Blob([bytes as BlobPart], { type: 'audio/wav' });
    return (await this.saving.save(blob, `${fileName(name)}.wav`)) !== false;
  }

  /** What is kept of a song, just as it is, as JSON. */
  async record(id: string, record: unknown): Promise<boolean> {
    const blob = new Blob([recordJson(record)], { type: 'application/json' });
    return (await this.saving.save(blob, `Early Sparrow song ${id.slice(0, 8)}.json`)) !== false;
  }
}

/** A file for the browser. */
export function blobOf({ bytes, type }: OutputFile): Blob {
  return new Blob([bytes as BlobPart], { type });
}
