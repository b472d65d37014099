import '../common/no-eval';
import { expose, transfer } from 'comlink';
import { readSmf, SmfError } from '@early-sparrow/core/smf';
import { buffersOf, pack } from '@early-sparrow/core/song';
import type { ImportAnswer, ImportApi } from './import-api';

const api: ImportApi = {
  read(bytes: Uint8Array, name: string): ImportAnswer {
    try {
      const { song, notices } = readSmf(bytes, name);
      const packed = pack(song);
      return transfer({ ok: true, song: packed, notices }, buffersOf(packed));
    } catch (error) {
      // Errors lose their kind between threads, so their code goes as data.
      if (error instanceof SmfError) return { ok: false, code: error.code, detail: error.message };
      throw error;
    }
  },
};

expose(api);
