import '../common/no-eval';
import { expose, transfer } from 'comlink';
import { BankError, BankFile, type BankFault } from '@early-sparrow/core/bank';
import { SOUNDS_CACHE, type BankAnswer, type BankApi } from './bank-api';

let bank: BankFile | null = null;

const api: BankApi = {
  async load(url, told) {
    const bytes = await fetchKept(url, (share) => void told(share));
    return read(bytes);
  },
  read: (bytes) => read(new Uint8Array(bytes)),
  async extract({ program, drums }) {
    try {
      const bytes = (await bank?.extract(program, drums)) ?? null;
      const answer = { bytes, problem: null };
      return bytes ? transfer(answer, [bytes]) : answer;
    } catch (error) {
      return { bytes: null, problem: faultOf(error) };
    }
  },
};

async function read(bytes: Uint8Array): Promise<BankAnswer> {
  try {
    bank = await BankFile.read(bytes);
    return { sounds: bank.sounds(), problem: null };
  } catch (error) {
    return { sounds: [], problem: faultOf(error) };
  }
}

function faultOf(error: unknown): BankFault {
  if (error instanceof BankError) return error.code;
  throw error;
}

/** From the browser's store if it is there, else from the server, and then into the store. */
async function fetchKept(url: string, told: (share: number) => void): Promise<Uint8Array> {
  // Pages over an unsafe connection have no store.
  const store = 'caches' in self ? await caches.open(SOUNDS_CACHE) : null;
  const kept = await store?.match(url);
  if (kept) return new Uint8Array(await kept.arrayBuffer());
  const response = await fetch(url);
  if (!response.ok || !response.body) throw new Error(`${url} answered ${response.status}`);
  const length = Number(response.headers.get('Content-Length') ?? 0);
  const parts: Uint8Array[] = [];
  let done = 0;
  const reader = response.body.getReader();
  for (let next = await reader.read(); !next.done; next = await reader.read()) {
    parts.push(next.value);
    done += next.value.length;
    if (length > 0) told(Math.min(1, done / length));
  }
  const bytes = new Uint8Array(done);
  let at = 0;
  for (const part of parts) {
    bytes.set(part, at);
    at += part.length;
  }
  try {
    await store?.put(url, new Response(bytes.slice()));
  } catch {
    // Without room it is fetched again the next time.
  }
  return bytes;
}

expose(api);
