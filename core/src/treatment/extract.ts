import { gridLines, midway } from '../grid';
import type { Performance, SoundingEvent, SoundingNote, TrackPerformance } from '../performance';
import {
  heldAt,
  isPartEvent,
  isPedal,
  letGo,
  timeOf,
  type PartEvent,
  type Song,
  type Track,
  type TrackEvent,
} from '../song';
import type { Ticks } from '../time';

/** What of a song is wanted. */
export interface Extent {
  /** Ids of the tracks; null for all. */
  readonly tracks: ReadonlySet<string> | null;
  /** Ids of the notes; null for all that are meant for the span. */
  readonly notes: ReadonlySet<number> | null;
  /** A stretch of the song, at whose end what rings on is cut. Null for all of it. */
  readonly span: { readonly from: Ticks; readonly to: Ticks } | null;
  /** The tick that becomes the first one: what stands before it and is wanted starts there, too. */
  readonly base: Ticks;
}

/** A part of a song with its own tempo and meter, and how it sounds: ready to be written as a file of its own. */
export interface Extract {
  readonly song: Song;
  readonly performance: Performance;
}

/** Takes out of a performance what is wanted. Pedals and bends that are held at its edges are set and let go there. */
export function extract(song: Song, performance: Performance, extent: Extent): Extract {
  const { tracks, span, base } = extent;
  const chosen = song.tracks.flatMap((track, i) =>
    tracks === null || tracks.has(track.id) ? [{ track, performance: performance[i] }] : [],
  );
  const { origin: _origin, ...plain } = song;
  const last = span?.to ?? Infinity;
  return {
    song: {
      ...plain,
      tempo: from(song.tempo, base, last),
      meter: from(song.meter, base, last),
      markers: song.markers.flatMap((m) =>
        m.tick >= base && m.tick < last ? [{ tick: m.tick - base, name: m.name }] : [],
      ),
      tracks: chosen.map(({ track }) => withoutOrigin(track)),
    },
    performance: chosen.map(({ track, performance }) => extractTrack(track, performance, song, extent)),
  };
}

function withoutOrigin({ origin: _origin, ...track }: Track): Track {
  return track;
}

/** A list of changes from a tick on: what holds there comes first. */
function from<C extends { readonly tick: Ticks }>(changes: readonly C[], base: Ticks, to: Ticks): C[] {
  const held = changes.findLast((c) => c.tick <= base);
  const later = changes.filter((c) => c.tick > base && c.tick < to);
  return [...(held ? [{ ...held, tick: 0 }] : []), ...later.map((c) => ({ ...c, tick: c.tick - base }))];
}

function extractTrack(
  track: Track,
  { notes, events }: TrackPerformance,
  song: Song,
  { notes: ids, span, base }: Extent,
): TrackPerformance {
  const edge = span && edgesOf(track, song, span);
  const end = span?.to ?? Infinity;
  const wanted = notes.filter(({ note, start }) =>
    ids ? ids.has(note.id) : !edge || (start >= edge.from && start < edge.to),
  );
  const at = (tick: Ticks): Ticks => Math.max(0, Math.min(tick, end) - base);
  return {
    notes: wanted.map((n): SoundingNote => ({ ...n, start: at(n.start), end: at(n.end), ordered: false })),
    events: placed(within(events, span), at),
  };
}

/** Where the notes of a stretch begin and end: halfway between the track's lines, so that early ones belong to it. */
function edgesOf(track: Track, song: Song, { from, to }: { from: Ticks; to: Ticks }): { from: Ticks; to: Ticks } {
  const part = track.parts.find((p) => p.end > from) ?? track.parts.at(-1);
  if (!part) return { from, to };
  const lines = gridLines(part.treatment.quantize.grid, timeOf(song));
  return { from: from === 0 ? 0 : midway(from, lines), to: midway(to, lines) };
}

function placed(events: readonly SoundingEvent[], at: (tick: Ticks) => Ticks): SoundingEvent[] {
  return events.map(({ event, tick }) => {
    const to = at(tick);
    return { event: { ...event, tick: to } as TrackEvent, tick: to, ordered: false };
  });
}

/** The events of a stretch: what was set before it is set at its start, what is held at its end is let go there. */
function within(events: readonly SoundingEvent[], span: Extent['span']): readonly SoundingEvent[] {
  if (!span) return events;
  const { from, to } = span;
  const inOrder = events.map((e, i) => ({ ...e, i })).sort((a, b) => a.tick - b.tick || a.i - b.i);
  const before = inOrder.filter((e) => e.tick < from);
  const inside = inOrder.filter((e) => e.tick >= from && e.tick < to);
  const set = new Map<string, SoundingEvent>();
  for (const e of before) set.set(keyOf(e.event, e.i), e);
  const again = [...set.values()].filter(({ event }) => event.type !== 'stray-off');
  const played = [...again, ...inside].map((e) => e.event).filter(isPartEvent);
  const open = heldAt(played).filter((e): e is PartEvent => e.type === 'bend' || isPedal(e));
  return [
    ...again.map((e) => ({ ...e, tick: from })),
    ...inside,
    ...open.map((event): SoundingEvent => ({ event: letGo(event, to), tick: to, ordered: false })),
  ];
}

/** Controllers that set a parameter in several messages, data entry and its parameter's number (MIDI 1.0, table III). */
const inSeveral = (controller: number) =>
  controller === 6 || controller === 38 || (controller >= 96 && controller <= 101);

/** Of what has the same key the last one holds; everything else is kept as it comes. */
function keyOf(event: TrackEvent, index: number): string {
  if (event.type === 'controller' && !inSeveral(event.controller))
    return `controller.${event.channel}.${event.controller}`;
  if (event.type === 'bend' || event.type === 'pressure' || event.type === 'program') {
    return `${event.type}.${event.channel}`;
  }
  if (event.type === 'key-pressure') return `${event.type}.${event.channel}.${event.pitch}`;
  return `${event.type}.${index}`;
}
