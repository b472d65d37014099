import { VOICES, type NoteColumns } from './columns';
import type { Times } from './quantize';

/** What settling did: notes by their index. */
export interface Settled {
  /** Notes that came to start together with a louder one of their voice. */
  readonly doubles: readonly number[];
  /** Notes that would have started before the song and wait at its start. */
  readonly held: readonly number[];
  /** 1 for a note that was dropped as the softer of a double; null where none was. */
  readonly dropped: Uint8Array | null;
  /** Notes whose end was cut because the same key starts again. */
  readonly cut: readonly number[];
}

/** What settling is to mind beside the notes. */
export interface SettleRules {
  /** Whether the softer of a double that came about is dropped. */
  readonly drops: (note: number) => boolean;
  /** 1 for a note that does not sound and so stands in nobody's way; null where all sound. */
  readonly silent: Uint8Array | null;
}

/** A key that is struck more often while it still sounds is no playing; what is beyond is left as it is. */
const MOST_SOUNDING = 256;

interface Settling {
  readonly columns: NoteColumns;
  readonly times: Times;
  readonly velocity: Uint8Array;
  readonly rules: SettleRules;
  dropped: Uint8Array | null;
  readonly doubles: number[];
  readonly cut: Set<number>;
}

/**
 * Rounds to whole ticks and mends what the stages brought about, in place, in the order of where the notes now lie.
 * Notes that no stage changed stay exactly as they were, their overlaps and lengths included, unless a changed note
 * runs into them: then the earlier ends where the later starts.
 */
export function settle(columns: NoteColumns, times: Times, velocity: Uint8Array, rules: SettleRules): Settled {
  const { count, voice: voices, start: start0, end: end0 } = columns;
  const { start, end } = times;
  const held: number[] = [];
  /** Of each voice: where its latest note starts, up to where it sounds, and what there is to settle in it. */
  const latest = new Float64Array(VOICES).fill(-Infinity);
  const reach = new Float64Array(VOICES).fill(-Infinity);
  const touched = new Uint8Array(VOICES);
  for (let i = 0; i < count; i++) {
    const voice = voices[i];
    let s = start[i];
    let e = end[i];
    if (s !== start0[i] || e !== end0[i]) {
      s = Math.floor(s + 0.5);
      e = Math.floor(e + 0.5);
      if (s < 0) {
        s = 0;
        held.push(i);
      }
      if (e < s + 1) e = s + 1;
      start[i] = s;
      end[i] = e;
      touched[voice] |= CHANGED;
    }
    if (rules.silent?.[i]) continue;
    if (s <= latest[voice] || s < reach[voice]) touched[voice] |= MEETS;
    if (s > latest[voice]) latest[voice] = s;
    if (e > reach[voice]) reach[voice] = e;
  }
  const state: Settling = { columns, times, velocity, rules, dropped: null, doubles: [], cut: new Set() };
  const members = membersOf(columns, touched, rules.silent);
  for (const list of members.values()) settleVoice(state, list);
  const { dropped, doubles, cut } = state;
  return { doubles, held, dropped, cut: [...cut] };
}

/** Something in a voice was changed; notes of it meet, or are not in order any more. Both: there is something to settle. */
const CHANGED = 1;
const MEETS = 2;

/** The notes of the voices in which there is something to settle. */
function membersOf(columns: NoteColumns, touched: Uint8Array, silent: Uint8Array | null): Map<number, number[]> {
  const members = new Map<number, number[]>();
  for (let v = 0; v < VOICES; v++) if (touched[v] === (CHANGED | MEETS)) members.set(v, []);
  if (members.size === 0) return members;
  for (let i = 0; i < columns.count; i++) {
    if (touched[columns.voice[i]] === (CHANGED | MEETS) && !silent?.[i]) members.get(columns.voice[i])?.push(i);
  }
  return members;
}

/** Settles one voice: goes through its notes as they start, with those that still sound at hand. */
function settleVoice(state: Settling, members: number[]): void {
  const { start, end } = state.times;
  const { start: start0, end: end0 } = state.columns;
  // As the stages left them: a cut made here does not make a note a changed one.
  const changed = new Set(members.filter((i) => start[i] !== start0[i] || end[i] !== end0[i]));
  members.sort((a, b) => start[a] - start[b] || end[a] - end[b] || a - b);
  let sounding: number[] = [];
  for (let from = 0; from < members.length;) {
    let to = from + 1;
    while (to < members.length && start[members[to]] === start[members[from]]) to++;
    const run = members.slice(from, to);
    if (run.length > 1 && run.some((i) => changed.has(i))) settleDoubles(state, run);
    const now = start[run[0]];
    sounding = sounding.filter((p) => end[p] > now);
    for (const i of run.slice(0, MOST_SOUNDING)) {
      if (state.dropped?.[i]) continue;
      const changes = changed.has(i);
      for (const p of sounding) if (changes || changed.has(p)) settlePair(state, p, i);
    }
    for (const i of run) if (!state.dropped?.[i] && sounding.length < MOST_SOUNDING) sounding.push(i);
    from = to;
  }
}

/** Notes that now start together: those that did not start with the loudest before are its doubles. */
function settleDoubles(state: Settling, run: readonly number[]): void {
  const { velocity, columns, rules } = state;
  const loudest = run.reduce((best, i) => (velocity[i] > velocity[best] ? i : best));
  for (const i of run) {
    if (columns.start[i] === columns.start[loudest]) continue;
    state.doubles.push(i);
    if (!rules.drops(i)) continue;
    state.dropped ??= new Uint8Array(columns.count);
    state.dropped[i] = 1;
  }
}

/** Settles two notes of one voice of which one was changed; the first starts before the second and sounds into it. */
function settlePair({ columns, times, cut }: Settling, p: number, i: number): void {
  const { start, end } = times;
  const { start: start0, end: end0 } = columns;
  const overlapped = start0[p] === start0[i] || Math.max(start0[p], start0[i]) < Math.min(end0[p], end0[i]);
  // One inside the other cannot be written to a file, which pairs first-in first-out.
  const most = overlapped ? end[i] : start[i];
  if (end[p] <= most) return;
  end[p] = most;
  cut.add(p);
}
