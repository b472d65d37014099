import type { TrackPerformance } from '../smf';
import type { TempoMap } from '../time';

/** A note on its way to the ear. Times in ms from the song's start. */
export interface Sounding {
  readonly id: number;
  readonly start: number;
  /** Where it ends, the damper pedal counted in. */
  readonly end: number;
  readonly pitch: number;
  readonly velocity: number;
  readonly channel: number;
}

const DAMPER = 64;
const timelines = new WeakMap<TrackPerformance, { tempo: TempoMap; value: readonly Sounding[] }>();

/** A track's audible notes in order of their starts; a note under the damper pedal lasts until it lifts or the key is struck again. */
export function timeline(track: TrackPerformance, tempo: TempoMap): readonly Sounding[] {
  const known = timelines.get(track);
  if (known?.tempo === tempo) return known.value;
  const value = build(track, tempo);
  timelines.set(track, { tempo, value });
  return value;
}

function build(track: TrackPerformance, tempo: TempoMap): Sounding[] {
  const lifts = damperSpans(track);
  const notes = track.notes
    .filter((n) => !n.note.muted)
    .map((n) => ({
      id: n.note.id,
      start: n.start,
      end: damped(n.end, lifts.get(n.note.channel)),
      pitch: n.note.pitch,
      velocity: n.velocity,
      channel: n.note.channel,
    }))
    .sort((a, b) => a.start - b.start);
  const next = new Map<number, number>();
  for (let i = notes.length - 1; i >= 0; i--) {
    const key = notes[i].channel * 128 + notes[i].pitch;
    const again = next.get(key);
    if (again !== undefined && again > notes[i].start) notes[i].end = Math.min(notes[i].end, again);
    next.set(key, notes[i].start);
  }
  return notes.map((n) => ({ ...n, start: tempo.toMs(n.start), end: tempo.toMs(n.end) }));
}

/** Per channel the spans, in ticks, in which the damper is down. */
function damperSpans(track: TrackPerformance): Map<number, { from: number; to: number }[]> {
  const spans = new Map<number, { from: number; to: number }[]>();
  const events = track.events.filter((e) => e.type === 'controller' && e.controller === DAMPER);
  for (const event of [...events].sort((a, b) => a.tick - b.tick || a.order - b.order)) {
    if (event.type !== 'controller') continue;
    const list = spans.get(event.channel) ?? [];
    spans.set(event.channel, list);
    const last = list.at(-1);
    const isDown = last?.to === Infinity;
    // Half of the pedal's way is down (MIDI 1.0: 0 to 63 off, 64 to 127 on).
    if (event.value >= 64 && !isDown) list.push({ from: event.tick, to: Infinity });
    else if (event.value < 64 && last && isDown) last.to = event.tick;
  }
  return spans;
}

function damped(end: number, spans: readonly { from: number; to: number }[] | undefined): number {
  const span = spans?.find((s) => s.from <= end && end < s.to);
  // A pedal that never lifts again holds nothing for ever.
  return span && span.to !== Infinity ? span.to : end;
}

/** Index of the first note that starts at or after `ms`. */
export function firstFrom(notes: readonly Sounding[], ms: number): number {
  let low = 0;
  let high = notes.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (notes[middle].start < ms) low = middle + 1;
    else high = middle;
  }
  return low;
}
