import { Injectable, signal } from '@angular/core';
import { fileOpen } from 'browser-fs-access';
import { inTurns } from './in-turns';
import { isClosedWindow } from './closed-window';
import { ADVICE } from './smf-advice';
import { SONG_FILE_ENDING, SONG_FILE_TYPE } from './file-kinds';
import { MAX_BYTES, type ImportedSong } from '@early-sparrow/core/smf';
import { unpackPieces, type Song } from '@early-sparrow/core/song';
import { askOnce } from '../workers/ask-once';
import type { ImportAnswer, ImportApi } from '../workers/import-api';
import { importWorker } from '../workers/import-worker';

/** The song in a file, perhaps with a word about it; or the reason why there is none. */
export type ReadFile =
  | {
      readonly song: Song;
      /** The song once more, as it is kept. */
      readonly packed: unknown;
      readonly notice: string | null;
    }
  | { readonly song: null; readonly packed: null; readonly notice: string };

/** Chooses MIDI files and reads them in a worker. */
@Injectable({ providedIn: 'root' })
export class MidiFiles {
  /** Name of the file that is being read; null when none is. */
  readonly busy = signal<string | null>(null);

  /** Files that the user chooses, none where the file window was closed. @param songs whether song files may be among them */
  async choose({ one = false, songs = false } = {}): Promise<readonly File[]> {
    const midi = {
      extensions: ['.mid', '.midi', '.rmi', '.smf'],
      mimeTypes: ['audio/midi'],
      description: 'Standard MIDI files',
    };
    const both = {
      extensions: [SONG_FILE_ENDING, ...midi.extensions],
      mimeTypes: [SONG_FILE_TYPE, ...midi.mimeTypes],
      description: 'Songs and standard MIDI files',
    };
    const kind = songs ? both : midi;
    try {
      return one ? [await fileOpen(kind)] : await fileOpen({ ...kind, multiple: true });
    } catch (error) {
      if (isClosedWindow(error)) return [];
      throw error;
    }
  }

  async read(file: File): Promise<ReadFile> {
    const failed = (text: string): ReadFile => {
      return { song: null, packed: null, notice: `“${file.name}” was not opened. ${text}` };
    };
    this.busy.set(file.name);
    try {
      // What is over the limit is refused without being read.
      const read = await file
        .slice(0, MAX_BYTES + 1)
        .arrayBuffer()
        .catch(() => null);
      if (!read)
        return failed('The file could not be read: it may have been moved, or it is a folder. Choose it again.');
      const answer = await ask(new Uint8Array(read), file.name.replace(/\.[^.]*$/, '')).catch(() => null);
      if (!answer) return failed('The program failed while reading it: please tell us about this file.');
      if (!answer.ok) return failed(`${answer.detail} ${ADVICE[answer.code]}`);
      const song = (await inTurns(unpackPieces(answer.song))) as Song;
      if (!song.tracks.some((t) => t.parts.length > 0)) {
        return failed('It has no notes in it. Choose a file with a recorded performance.');
      }
      return { song, packed: answer.song, notice: noticesOf(answer.notices, file.name) };
    } finally {
      this.busy.set(null);
    }
  }
}

function ask(bytes: Uint8Array, name: string): Promise<ImportAnswer> {
  return askOnce<ImportApi, ImportAnswer>(importWorker, (api): Promise<ImportAnswer> => api.read(bytes, name));
}

function noticesOf(notices: ImportedSong['notices'], fileName: string): string | null {
  if (notices.length === 0) return null;
  const more = notices.length > 1 ? ` (and ${notices.length - 1} more)` : '';
  return `“${fileName}” was opened. ${notices[0].text}${more}`;
}
