import type { TrackPerformance } from '../smf';
import { pieceAt, type Ms, type TempoMap, type Ticks } from '../time';

/** A note on its way to the ear. Times in ms from the song's start. */
export interface Sounding {
  readonly id: number;
  readonly start: Ms;
  /** Where it ends, the damper pedal counted in. */
  readonly end: Ms;
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

/** When a damper is down: ascending ticks, one of each list a span. */
interface Spans {
  readonly from: Ticks[];
  readonly to: Ticks[];
}

/** Per channel the spans in which the damper is down. */
function damperSpans(track: TrackPerformance): Map<number, Spans> {
  const channels = new Map<number, Spans>();
  const dampers = track.events.flatMap(({ event, tick }) =>
    event.type === 'controller' && event.controller === DAMPER ? [{ ...event, tick }] : [],
  );
  for (const { channel, value, tick } of dampers.sort((a, b) => a.tick - b.tick || (a.order ?? 0) - (b.order ?? 0))) {
    const spans = channels.get(channel) ?? { from: [], to: [] };
    channels.set(channel, spans);
    const isDown = spans.to.at(-1) === Infinity;
    // Half of the pedal's way is down (MIDI 1.0: 0 to 63 off, 64 to 127 on).
    if (value >= 64 && !isDown) {
      spans.from.push(tick);
      spans.to.push(Infinity);
    } else if (value < 64 && isDown) spans.to[spans.to.length - 1] = tick;
  }
  return channels;
}

function damped(end: Ticks, spans: Spans | undefined): Ticks {
  if (!spans || spans.from.length === 0) return end;
  const span = pieceAt(spans.from, end);
  const to = spans.to[span];
  // A pedal that never lifts again holds nothing for ever.
  return spans.from[span] <= end && end < to && to !== Infinity ? to : end;
}

/** Index of the first note that starts at or after `ms`. */
export function firstFrom(notes: readonly Sounding[], ms: Ms): number {
  let low = 0;
  let high = notes.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (notes[middle].start < ms) low = middle + 1;
    else high = middle;
  }
  return low;
}
