import type { Ticks } from '../time';
import type { TreatedPart } from './treat';

/** Where a note's or a chord's edge was and where it went. */
export interface Anchor {
  readonly from: Ticks;
  readonly to: Ticks;
}

/**
 * The map by which other events follow the notes: straight lines between anchors, which are the first and last
 * starts of the chords, and the starts of all other notes that sound, as played and pinned ones too. Its targets
 * never run backwards: of anchors that contradict each other the most that agree are kept, so that one note pinned
 * far away takes no pedal along. An anchor that would collapse a stretch in which events lie is left out.
 * @param eventTicks ticks of the events that follow, ascending
 */
export function followMap(treated: TreatedPart, eventTicks: readonly Ticks[]): Anchor[] {
  const anchors = anchorsOf(treated).sort((a, b) => a.from - b.from || a.to - b.to);
  const kept: Anchor[] = [];
  let event = 0;
  for (const anchor of agreeing(anchors.filter((a, i) => i === 0 || a.from !== anchors[i - 1].from))) {
    const last = kept[kept.length - 1];
    if (last) {
      while (event < eventTicks.length && eventTicks[event] <= last.from) event++;
      const holdsEvents = event < eventTicks.length && eventTicks[event] < anchor.from;
      if (anchor.to === last.to && holdsEvents) continue;
    }
    kept.push(anchor);
  }
  return kept;
}

function anchorsOf({ part, columns, start, groups }: TreatedPart): Anchor[] {
  const anchors: Anchor[] = [];
  const treated = new Uint8Array(columns.count);
  for (const { chords, members } of groups) {
    for (let c = 0; c < chords.count; c++) {
      const a = members ? members[chords.first[c]] : chords.first[c];
      const b = members ? members[chords.first[c + 1] - 1] : chords.first[c + 1] - 1;
      anchors.push({ from: columns.start[a], to: start[a] });
      if (columns.start[b] > columns.start[a]) anchors.push({ from: columns.start[b], to: start[b] });
    }
    if (!members) return anchors;
    for (const note of members) treated[note] = 1;
  }
  part.notes.forEach((note, i) => {
    if (treated[i] === 0 && !note.muted && note.exception?.kind !== 'dropped') {
      anchors.push({ from: columns.start[i], to: start[i] });
    }
  });
  return anchors;
}

/** The longest row of anchors whose targets do not run backwards (longest non-decreasing subsequence, by patience). */
function agreeing(anchors: readonly Anchor[]): Anchor[] {
  if (anchors.every((a, i) => i === 0 || a.to >= anchors[i - 1].to)) return [...anchors];
  /** For each length of a row, the anchor with which such a row ends lowest. */
  const ends: number[] = [];
  const before = new Int32Array(anchors.length);
  anchors.forEach(({ to }, i) => {
    let low = 0;
    let high = ends.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (anchors[ends[middle]].to <= to) low = middle + 1;
      else high = middle;
    }
    before[i] = low > 0 ? ends[low - 1] : -1;
    ends[low] = i;
  });
  const row: Anchor[] = [];
  for (let i = ends[ends.length - 1]; i >= 0; i = before[i]) row.push(anchors[i]);
  return row.reverse();
}

/** Where the map takes a tick. Outside the anchors the shift is constant, and nothing goes before 0. */
export function mapTick(anchors: readonly Anchor[], tick: Ticks): Ticks {
  if (anchors.length === 0) return tick;
  let low = -1;
  let high = anchors.length;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (anchors[middle].from <= tick) low = middle;
    else high = middle;
  }
  if (low < 0) return Math.max(0, tick + anchors[0].to - anchors[0].from);
  const a = anchors[low];
  const b = anchors[low + 1];
  if (!b || a.from === tick) return Math.max(0, tick + a.to - a.from);
  return a.to + ((tick - a.from) * (b.to - a.to)) / (b.from - a.from);
}
