import type { BankFault, BankSound } from '@early-sparrow/core/bank';
import type { Sound } from '@early-sparrow/core/sound';
import type { ProxyMarked } from 'comlink';
import type { Told } from './worker-link';

/** The browser's cache that the instruments' sounds stay in. */
export const SOUNDS_CACHE = 'sounds-1';

/** The bank's fault is a value: errors lose their class on the way from a worker. */
export interface BankAnswer {
  readonly sounds: readonly BankSound[];
  readonly problem: BankFault | null;
}

export interface SoundAnswer {
  /** The sound as a bank of its own; null where there is none. */
  readonly bytes: ArrayBuffer | null;
  readonly problem: BankFault | null;
}

/** Reads a bank of sounds and takes single sounds out of it. */
export interface BankApi {
  /** Fetches the bank that comes with the application; it is kept for when there is no connection. */
  load(url: string, told: Told & ProxyMarked): Promise<BankAnswer>;
  /** Reads a bank of the user's own. */
  read(bytes: ArrayBuffer): Promise<BankAnswer>;
  extract(sound: Sound): Promise<SoundAnswer>;
}
