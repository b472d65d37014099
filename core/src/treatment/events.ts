import { isPedal, type EventMode, type Part, type Quantize, type TrackEvent } from '../song';
import type { SongTime } from '../grid';
import { treatmentLines } from './treater';
import type { TreatedPart } from './treat';

/** Where a chord's edge was and where it went, in ticks. */
export interface Anchor {
  readonly from: number;
  readonly to: number;
}

/**
 * The map by which other events follow the notes: straight lines between the first and last
 * starts of the chords. Its targets never run backwards; an anchor that would collapse a
 * stretch in which events lie is left out.
 * @param eventTicks ticks of the events that follow, ascending
 */
export function followMap(treated: TreatedPart, eventTicks: readonly number[]): Anchor[] {
  const anchors: Anchor[] = [];
  const { columns, start } = treated;
  for (const { chords, members } of treated.groups) {
    for (let c = 0; c < chords.count; c++) {
      const a = members ? members[chords.first[c]] : chords.first[c];
      const b = members ? members[chords.first[c + 1] - 1] : chords.first[c + 1] - 1;
      anchors.push({ from: columns.start[a], to: start[a] });
      if (columns.start[b] > columns.start[a]) anchors.push({ from: columns.start[b], to: start[b] });
    }
  }
  anchors.sort((a, b) => a.from - b.from || a.to - b.to);
  const kept: Anchor[] = [];
  let event = 0;
  for (const anchor of anchors) {
    const last = kept[kept.length - 1];
    if (!last) {
      kept.push(anchor);
      continue;
    }
    if (anchor.from === last.from) continue;
    while (event < eventTicks.length && eventTicks[event] <= last.from) event++;
    const holdsEvents = event < eventTicks.length && eventTicks[event] < anchor.from;
    const to = Math.max(anchor.to, last.to);
    if (to === last.to && holdsEvents) continue;
    kept.push({ from: anchor.from, to });
  }
  return kept;
}

/** Where the map takes a tick. Outside the anchors the shift is constant, and nothing goes before 0. */
export function mapTick(anchors: readonly Anchor[], tick: number): number {
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

/** A track's events after its parts' treatments, with those that moved. */
export function treatEvents(
  events: readonly TrackEvent[],
  parts: readonly { part: Part; treated: TreatedPart }[],
  time: SongTime,
): { events: readonly TrackEvent[]; moved: ReadonlySet<TrackEvent> } {
  const moved = new Set<TrackEvent>();
  let current = events;
  parts.forEach(({ part, treated }, p) => {
    const { quantize } = part.treatment;
    if (!part.on || !startsMove(treated)) return;
    const from = p === 0 ? 0 : part.start;
    const to = parts[p + 1]?.part.start ?? Infinity;
    const channels = new Set(part.notes.map((n) => n.channel));
    const modeOf = (e: TrackEvent) =>
      !e.fixed && e.tick >= from && e.tick < to && 'channel' in e && channels.has(e.channel)
        ? eventMode(e, quantize)
        : 'stay';
    const following = current.filter((e) => modeOf(e) === 'follow').map((e) => e.tick);
    const anchors = followMap(treated, following);
    const lines = treatmentLines(quantize, time);
    const last = new Map<string, number>();
    current = current.map((event) => {
      const mode = modeOf(event);
      if (mode === 'stay') return event;
      const wanted = mode === 'follow' ? mapTick(anchors, event.tick) : lines.nearest(event.tick);
      let tick = Math.max(0, Math.round(wanted));
      if (isPedal(event) && event.type === 'controller') {
        // Down and up keep their order and a tick between them, if they had one.
        const pedal = `${event.channel}.${event.controller}`;
        const before = last.get(pedal);
        if (before !== undefined && tick <= before) tick = before + 1;
        last.set(pedal, tick);
      }
      if (tick === event.tick) return event;
      const changed = { ...event, tick };
      moved.add(changed);
      return changed;
    });
  });
  return { events: current, moved };
}

function startsMove(treated: TreatedPart): boolean {
  return treated.start.some((s, i) => s !== treated.columns.start[i]);
}

function eventMode(event: TrackEvent, q: Quantize): EventMode {
  switch (event.type) {
    case 'controller':
      return isPedal(event) ? q.pedal : q.controller;
    case 'bend':
      return q.bend;
    case 'pressure':
    case 'key-pressure':
      return q.pressure;
    default:
      return 'stay';
  }
}
