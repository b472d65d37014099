import { inject, Injectable } from '@angular/core';
import type { Remote } from 'comlink';
import type { History } from '@early-sparrow/core/edit';
import type { SongFileProblem, SoundFile } from '@early-sparrow/core/keeping';
import { pack, unpack } from '@early-sparrow/core/song';
import { askOnce } from '../workers/ask-once';
import type { KeepingApi, SongFileAnswer } from '../workers/keeping-api';
import { keepingWorker } from '../workers/keeping-worker';
import { SongStore } from './song-store';

/** What to do about a song file that cannot be opened. */
const ADVICE: Record<SongFileProblem | 'unreadable', string> = {
  'not-song': 'Choose a file that ends in .sparrow, or a MIDI file.',
  newer: 'Update this program and open it again.',
  'cut-off': 'Copy it again from where it came, or take a backup.',
  damaged: 'Copy it again from where it came, or take a backup.',
  unreadable: 'Choose it again.',
  'too-large': 'Save it again without its history, or without its sound files.',
};

/** A song that was read, perhaps with words about it; or the reason why there is none. */
export type ReadSong =
  | { readonly history: History; readonly sounds: readonly SoundFile[]; readonly notices: readonly string[] }
  | { readonly history: null; readonly problem: string };

/** Reads and writes song files in a worker. */
@Injectable({ providedIn: 'root' })
export class SongFiles {
  private readonly songs = inject(SongStore);

  /** Reads a file that may be a song file. */
  async read(file: Blob): Promise<ReadSong> {
    const answer = await ask((api): Promise<SongFileAnswer> => api.read(file)).catch(() => null);
    if (!answer) return refused('The program failed while reading it: please tell us about this file.');
    if (!answer.ok) return refused(`${answer.detail} ${ADVICE[answer.code]}`);
    return { history: unpack(answer.history) as History, sounds: answer.sounds, notices: answer.notices };
  }

  /**
   * A song file.
   * @param id of the song whose sound files go along
   */
  async write(id: string, history: History, withHistory: boolean): Promise<Uint8Array> {
    const kept = await this.songs.files.where('song').equals(id).toArray();
    const sounds = kept.map(({ file, name, bytes }): SoundFile => ({ file, name, bytes: new Uint8Array(bytes) }));
    const plain = { song: history.song, undo: edits(history.undo), redo: edits(history.redo) };
    return ask((api) => api.write(pack(plain), sounds, withHistory));
  }
}

const ask = <T>(question: (api: Remote<KeepingApi>) => Promise<T>): Promise<T> => askOnce(keepingWorker, question);

const edits = (steps: History['undo']): History['undo'] => steps.map(({ edit }) => ({ edit }));

function refused(problem: string): ReadSong {
  return { history: null, problem };
}
