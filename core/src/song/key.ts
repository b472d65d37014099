import type { SetupEvent } from './event';
import type { Song } from './song';

/** A key signature from a tick on (Standard MIDI Files 1.0, RP-001: FF 59 02 sf mi). */
export interface SongKey {
  readonly tick: number;
  /** Sharps, or flats where negative: −7 to 7. */
  readonly sharps: number;
  readonly minor: boolean;
}

/** A key with the place of its event. */
export interface FoundKey extends SongKey {
  readonly track: string;
  /** Index in the track's setup. */
  readonly index: number;
}

/** The meta event that a key signature is. */
export const KEY_SIGNATURE = 0x59;

/** Names of the keys from seven flats to seven sharps. */
const MAJORS = ['C♭', 'G♭', 'D♭', 'A♭', 'E♭', 'B♭', 'F', 'C', 'G', 'D', 'A', 'E', 'B', 'F♯', 'C♯'];
const MINORS = ['A♭', 'E♭', 'B♭', 'F', 'C', 'G', 'D', 'A', 'E', 'B', 'F♯', 'C♯', 'G♯', 'D♯', 'A♯'];

/** `B♭ major`. */
export function keyName({ sharps, minor }: Pick<SongKey, 'sharps' | 'minor'>): string {
  return `${(minor ? MINORS : MAJORS)[sharps + 7]} ${minor ? 'minor' : 'major'}`;
}

/** All keys that there are signatures for, from seven flats to seven sharps. */
export const ALL_KEYS: readonly Pick<SongKey, 'sharps' | 'minor'>[] = [false, true].flatMap((minor) =>
  MAJORS.map((_, i) => ({ sharps: i - 7, minor })),
);

/** The keys that a song names, in order of time: of several at one tick the first track's, and there the last. */
export function keysOf(song: Song): FoundKey[] {
  const found = new Map<number, FoundKey>();
  for (const { id, setup } of song.tracks) {
    setup.forEach((event, index) => {
      const key = keyIn(event);
      const other = key && found.get(key.tick);
      if (key && (!other || other.track === id)) found.set(key.tick, { ...key, track: id, index });
    });
  }
  return [...found.values()].sort((a, b) => a.tick - b.tick);
}

/** The key that an event names; null for any other, and where its bytes make no sense. */
function keyIn(event: SetupEvent): SongKey | null {
  if (event.type !== 'meta' || event.meta !== KEY_SIGNATURE || event.data.length < 2) return null;
  const sharps = (event.data[0] << 24) >> 24;
  const [, mode] = event.data;
  if (Math.abs(sharps) > 7 || mode > 1) return null;
  return { tick: event.tick, sharps, minor: mode === 1 };
}

/** The event that names a key. */
export function keyEvent({ tick, sharps, minor }: SongKey): SetupEvent {
  return { type: 'meta', tick, meta: KEY_SIGNATURE, data: Uint8Array.of(sharps & 0xff, minor ? 1 : 0) };
}
