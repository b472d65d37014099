import type { Lines } from '../grid';
import {
  isPedal,
  perNoteOf,
  perTime,
  type EventMode,
  type PartEvent,
  type Quantize,
  type SongContext,
  type Track,
} from '../song';
import type { Ticks } from '../time';
import { followMap, mapTick } from './follow-map';
import { ridesOf } from './per-note';
import { ownerOf } from './reference';
import { partLines, referencesOf, treatTrack, type TreatedPart } from './treat';

/** Where pedals last were, one entry a pedal of a channel: they keep their order across the borders of parts too. */
type Pedals = Map<string, Ticks>;

/** Where the events of each part of a track happen after its treatment, in the order of the part's own events. */
export const treatEvents = perTime(treatEventsNow, {
  also: (parts: Track['parts'], song: SongContext) => [...referencesOf(parts, song), setupOf(parts, song)],
});

/** What the track of some parts sends before its first note; the zones of a take that was played note by note. */
function setupOf(parts: Track['parts'], song: SongContext): Track['setup'] | undefined {
  return parts.length > 0 ? ownerOf(parts[0], song)?.setup : undefined;
}

function treatEventsNow(parts: Track['parts'], song: SongContext): readonly ArrayLike<Ticks>[] {
  const pedals: Pedals = new Map();
  const setup = setupOf(parts, song);
  return treatTrack({ parts }, song).map((treated) => eventsOf(treated, song, pedals, setup));
}

function eventsOf(
  treated: TreatedPart,
  song: SongContext,
  pedals: Pedals,
  setup: Track['setup'] | undefined,
): ArrayLike<Ticks> {
  const { part } = treated;
  if (part.events.length === 0) return [];
  const { quantize } = part.treatment;
  const moves = part.on && treated.start.some((s, i) => s !== treated.columns.start[i]);
  const channels = new Set(moves ? part.notes.map((n) => n.channel) : []);
  const perNote = moves ? perNoteOf(part, setup) : null;
  // What is meant for all notes of a zone comes on a channel that has none.
  const modeOf = (e: PartEvent): EventMode =>
    !e.fixed && (channels.has(e.channel) || perNote?.masters.has(e.channel)) ? eventMode(e, quantize) : 'stay';
  const rides = moves ? ridesOf(part, setup) : null;
  /** What rides with no note; a take of many bends has few that do not. */
  const others = rides?.others ?? [...part.events.keys()];
  const following: Ticks[] = [];
  if (moves) for (const i of others) if (modeOf(part.events[i]) === 'follow') following.push(part.events[i].tick);
  const anchors = moves ? followMap(treated, following) : [];
  let lines: Lines | null = null;
  const ticks = rides ? rides.move(treated.start) : new Float64Array(part.events.length);
  for (const i of others) {
    const event = part.events[i];
    const mode = modeOf(event);
    let tick = event.tick;
    if (mode === 'follow') tick = mapTick(anchors, event.tick);
    else if (mode === 'quantize') tick = (lines ??= partLines(part, song)).nearest(event.tick);
    tick = Math.max(0, Math.round(tick));
    ticks[i] = tick;
    if (event.type !== 'controller' || !isPedal(event)) continue;
    // Down and up keep their order and a tick between them, if they had one.
    const pedal = `${event.channel}.${event.controller}`;
    const before = pedals.get(pedal);
    if (mode !== 'stay' && before !== undefined && tick <= before) ticks[i] = before + 1;
    pedals.set(pedal, ticks[i]);
  }
  return ticks;
}

function eventMode(event: PartEvent, q: Quantize): EventMode {
  switch (event.type) {
    case 'controller':
      return isPedal(event) ? q.pedal : q.controller;
    case 'bend':
      return q.bend;
    case 'pressure':
    case 'key-pressure':
      return q.pressure;
  }
}
