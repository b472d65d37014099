import { VOICES, type NoteColumns } from './columns';
import type { Times } from './quantize';

/** What settling did. */
export interface Settled {
  /** Notes that came to start together with a louder one of their voice. */
  readonly doubles: number;
  /** Notes that would have started before the song and wait at its start. */
  readonly held: number;
  /** 1 for a note that was dropped as the softer of a double; null where none was. */
  readonly dropped: Uint8Array | null;
  /** Notes whose end was cut because the same key starts again. */
  readonly cut: number;
}

/** One voice on the way through the notes: the group of notes that may touch each other, if it has more than one. */
class VoiceState {
  readonly last = new Int32Array(VOICES).fill(-1);
  readonly size = new Int32Array(VOICES);
  /** Up to where a further note belongs to the group, as played or as corrected. */
  readonly reach = new Float64Array(VOICES).fill(-Infinity);
}

interface Settling {
  readonly columns: NoteColumns;
  readonly times: Times;
  readonly velocity: Uint8Array;
  readonly dropDoubles: boolean;
  dropped: Uint8Array | null;
  /** The softer notes of doubles, by index: each counts once, however many it doubles. */
  readonly doubled: Set<number>;
  cut: number;
}

/**
 * Rounds to whole ticks and mends what the stages brought about, in place. Notes that no stage
 * changed stay exactly as they were, their overlaps and lengths included, unless a changed note
 * runs into them: then the earlier ends where the later starts.
 * @param silent 1 for a note that does not sound and so stands in nobody's way
 */
export function settle(
  columns: NoteColumns,
  times: Times,
  velocity: Uint8Array,
  dropDoubles: boolean,
  silent: Uint8Array | null = null,
): Settled {
  const { count, voice: voiceOfNote, start: start0, end: end0 } = columns;
  const { start, end } = times;
  const voices = new VoiceState();
  const { last, size, reach } = voices;
  const before = new Int32Array(count);
  const doubled = new Set<number>();
  const state: Settling = { columns, times, velocity, dropDoubles, dropped: null, doubled, cut: 0 };
  let held = 0;
  for (let i = 0; i < count; i++) {
    let s = start[i];
    let e = end[i];
    if (s !== start0[i] || e !== end0[i]) {
      s = Math.floor(s + 0.5);
      e = Math.floor(e + 0.5);
      if (s < 0) {
        s = 0;
        held++;
      }
      if (e < s + 1) e = s + 1;
      start[i] = s;
      end[i] = e;
    }
    if (silent?.[i]) continue;
    const voice = voiceOfNote[i];
    const p = last[voice];
    const earliest = Math.min(s, start0[i]);
    // Notes that start together touch each other even without any length.
    const mine = Math.max(e, end0[i], s + 1, start0[i] + 1);
    if (earliest < reach[voice]) {
      size[voice]++;
      if (mine > reach[voice]) reach[voice] = mine;
    } else {
      if (size[voice] > 1) settleGroup(state, before, p, size[voice]);
      size[voice] = 1;
      reach[voice] = mine;
    }
    before[i] = p;
    last[voice] = i;
  }
  for (let v = 0; v < VOICES; v++) if (size[v] > 1) settleGroup(state, before, last[v], size[v]);
  return { doubles: doubled.size, held, dropped: state.dropped, cut: state.cut };
}

/** Settles a voice's group: its last note and the `size − 1` before it. */
function settleGroup(state: Settling, before: Int32Array, lastOne: number, size: number): void {
  const { columns, times } = state;
  const { start, end } = times;
  const members = [lastOne];
  while (members.length < size) members.push(before[members[members.length - 1]]);
  members.reverse();
  if (!inOrder(members, start)) members.sort((a, b) => start[a] - start[b] || end[a] - end[b] || a - b);
  // As the stages left them: a cut made here does not make a note a changed one.
  const changed = members.map((i) => start[i] !== columns.start[i] || end[i] !== columns.end[i]);
  let latest = end[members[0]];
  const latestBefore = [latest];
  for (let m = 1; m < size; m++) {
    const i = members[m];
    for (let k = m - 1; k >= 0; k--) {
      const p = members[k];
      if (latestBefore[k] <= start[i] && start[p] !== start[i]) break;
      if ((changed[m] || changed[k]) && (end[p] > start[i] || start[p] === start[i])) settlePair(state, p, i);
    }
    latest = Math.max(latest, end[i]);
    latestBefore.push(latest);
  }
}

function inOrder(members: readonly number[], start: Float64Array): boolean {
  for (let m = 1; m < members.length; m++) if (start[members[m]] <= start[members[m - 1]]) return false;
  return true;
}

/** Settles two notes of one voice of which one was changed; the first starts no later and sounds into the second. */
function settlePair(state: Settling, p: number, i: number): void {
  const { columns, times, velocity, dropped } = state;
  const { start, end } = times;
  const { start: start0, end: end0 } = columns;
  if (dropped !== null && (dropped[p] === 1 || dropped[i] === 1)) return;
  if (start[p] === start[i]) {
    if (start0[p] === start0[i]) return;
    const softer = velocity[p] < velocity[i] ? p : i;
    state.doubled.add(softer);
    if (!state.dropDoubles) return;
    state.dropped ??= new Uint8Array(columns.count);
    state.dropped[softer] = 1;
    return;
  }
  const overlapped = start0[p] === start0[i] || Math.max(start0[p], start0[i]) < Math.min(end0[p], end0[i]);
  // One inside the other cannot be written to a file, which pairs first-in first-out.
  const most = overlapped ? end[i] : start[i];
  if (end[p] <= most) return;
  end[p] = most;
  state.cut++;
}
