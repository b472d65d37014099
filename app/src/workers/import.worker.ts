import '../common/no-eval';
import { expose } from 'comlink';
import { readSmf, SmfError } from '@early-sparrow/core/smf';
import type { ImportAnswer, ImportApi } from './import-api';

const api: ImportApi = {
  read(bytes: Uint8Array, name: string): ImportAnswer {
    try {
      return { ok: true, ...readSmf(bytes, name) };
    } catch (error) {
      // Errors lose their kind between threads, so their code goes as data.
      if (error instanceof SmfError) return { ok: false, code: error.code, detail: error.message };
      throw error;
    }
  },
};

expose(api);
