import { VOICES, type NoteColumns } from './columns';
import type { Times } from './quantize';

/** What settling did. */
export interface Settled {
  /** Pairs of notes of one voice that came to start together. */
  readonly doubles: number;
  /** 1 for a note that was dropped as the softer of a double; null where none was. */
  readonly dropped: Uint8Array | null;
  /** Notes whose end was cut because the same key starts again. */
  readonly cut: number;
}

/**
 * Rounds to whole ticks and mends what the stages brought about, in place. Notes that no stage
 * changed stay exactly as they were, their overlaps and lengths included, unless a changed note
 * runs into them: then the earlier ends where the later starts.
 */
export function settle(columns: NoteColumns, times: Times, velocity: Uint8Array, dropDoubles: boolean): Settled {
  const { count, pitch, channel, start: start0, end: end0 } = columns;
  const { start, end } = times;
  const last = new Int32Array(VOICES).fill(-1);
  let tangled: Uint8Array | null = null;
  let cut = 0;
  for (let i = 0; i < count; i++) {
    let s = start[i];
    let e = end[i];
    const changed = s !== start0[i] || e !== end0[i];
    if (changed) {
      s = Math.round(s);
      e = Math.round(e);
      if (s < 0) s = 0;
      if (e < s + 1) e = s + 1;
      start[i] = s;
      end[i] = e;
    }
    const voice = channel[i] * 128 + pitch[i];
    const p = last[voice];
    last[voice] = i;
    if (p < 0) continue;
    if (s <= start[p] || end0[p] > start0[i]) {
      // Order changed, equal starts, or an overlap that was played: this voice needs a closer look.
      (tangled ??= new Uint8Array(VOICES))[voice] = 1;
    } else if (end[p] > s) {
      end[p] = s;
      cut++;
    }
  }
  if (!tangled) return { doubles: 0, dropped: null, cut };
  const rest = untangle(columns, times, velocity, tangled, dropDoubles);
  return { ...rest, cut: cut + rest.cut };
}

function untangle(
  columns: NoteColumns,
  times: Times,
  velocity: Uint8Array,
  tangled: Uint8Array,
  dropDoubles: boolean,
): Settled {
  const members = new Map<number, number[]>();
  for (let i = 0; i < columns.count; i++) {
    const voice = columns.channel[i] * 128 + columns.pitch[i];
    if (!tangled[voice]) continue;
    const list = members.get(voice);
    if (list) list.push(i);
    else members.set(voice, [i]);
  }
  let dropped: Uint8Array | null = null;
  let doubles = 0;
  let cut = 0;
  const { start, end } = times;
  const isDropped = (i: number) => dropped !== null && dropped[i] === 1;
  // As the stages left them: a cut made here does not make a note a changed one.
  const changed = Uint8Array.from(start, (s, i) => (s !== columns.start[i] || end[i] !== columns.end[i] ? 1 : 0));
  const overlappedBefore = (a: number, b: number) =>
    columns.start[a] === columns.start[b] ||
    Math.max(columns.start[a], columns.start[b]) < Math.min(columns.end[a], columns.end[b]);

  for (const list of members.values()) {
    list.sort((a, b) => start[a] - start[b] || end[a] - end[b] || a - b);
    let sounding: number[] = [];
    for (const i of list) {
      sounding = sounding.filter((p) => end[p] > start[i] || start[p] === start[i]);
      for (const p of sounding) {
        if (isDropped(p) || !(changed[p] || changed[i])) continue;
        if (start[p] === start[i]) {
          if (columns.start[p] === columns.start[i]) continue;
          doubles++;
          if (!dropDoubles || isDropped(i)) continue;
          dropped ??= new Uint8Array(columns.count);
          dropped[velocity[p] < velocity[i] ? p : i] = 1;
        } else if (!overlappedBefore(p, i)) {
          if (end[p] > start[i]) {
            end[p] = start[i];
            cut++;
          }
        } else if (end[p] > end[i]) {
          // One inside the other cannot be written to a file, which pairs first-in first-out.
          end[p] = end[i];
          cut++;
        }
      }
      if (!isDropped(i)) sounding.push(i);
    }
  }
  return { doubles, dropped, cut };
}
