import '../common/no-eval';
import { expose, transfer } from 'comlink';
import type { History } from '@early-sparrow/core/edit';
import {
  MOST_SONG_FILE,
  readSongFile,
  SongFileError,
  writeSongFile,
  type SoundFile,
} from '@early-sparrow/core/keeping';
import { pack, unpack } from '@early-sparrow/core/song';
import type { KeepingApi, SongFileAnswer } from './keeping-api';

const api: KeepingApi = {
  async read(file: Blob): Promise<SongFileAnswer> {
    // What is over the limit is refused without being read.
    if (file.size > MOST_SONG_FILE) return { ok: false, code: 'too-large', detail: 'It is larger than any song file.' };
    const read = await file.arrayBuffer().catch(() => null);
    if (!read) return { ok: false, code: 'unreadable', detail: 'The file could not be read: it may have been moved.' };
    try {
      const { history, sounds, notices } = await readSongFile(new Uint8Array(read));
      const moved = sounds.map((s) => s.bytes.buffer);
      return transfer({ ok: true, history: pack(history), sounds, notices }, moved);
    } catch (error) {
      // Errors lose their kind between threads, so their code goes as data.
      if (error instanceof SongFileError) return { ok: false, code: error.code, detail: error.message };
      throw error;
    }
  },
  async write(history: unknown, sounds: readonly SoundFile[], withHistory: boolean): Promise<Uint8Array> {
    const bytes = await writeSongFile({ history: unpack(history) as History, sounds }, withHistory);
    return transfer(bytes, [bytes.buffer]);
  },
};

expose(api);
