import {
  changedNote,
  counted,
  meterHeldAt,
  meterOf,
  takeOf,
  type Part,
  type SetupEvent,
  type Song,
  type Track,
} from '../song';
import type { MeterPiece, Ticks } from '../time';
import { Building } from './building';
import { cutAt } from './cut-at';
import type { Edit } from './edit';
import { problem, type EditProblem } from './kind';
import { changeNotes } from './kinds/notes';
import { holdFrom } from './hold-from';

type Done = Edit | EditProblem | null;

/** So many bars are inserted at most at one go. */
export const MOST_BARS = 2000;

/** A stretch of whole bars in ticks. */
interface Bars {
  readonly from: Ticks;
  readonly to: Ticks;
}

function countProblem(count: number): EditProblem | null {
  const fits = Number.isInteger(count) && count >= 1 && count <= MOST_BARS;
  return fits ? null : problem(`Type a number of bars from 1 to ${MOST_BARS.toLocaleString('en')}.`);
}

/**
 * The edit that inserts empty bars in front of a bar, in all tracks, in the meter of the bar before. Parts over that
 * place are cut there; everything behind goes later. What stands at the song's start (tempo, meter, key) stays there.
 * @param bar counted from 1
 */
export function insertBars(song: Song, bar: number, count: number): Done {
  const wrong = countProblem(count);
  if (wrong) return wrong;
  const meter = meterOf(song);
  const at = Math.ceil(meter.tickOfBar(Math.max(1, Math.round(bar))));
  const before = meter.pieceAt(Math.max(0, at - 1));
  const by = Math.round(before.barTicks * count);
  const name = `Insert ${counted(count, 'bar')}`;
  const building = new Building(song);
  for (const track of song.tracks) {
    cutTrack(building, track, at, name);
    const behind = partsOf(building, track).filter((p) => p.start >= at);
    for (const part of behind.reverse()) moveBy(building, track, part, by, name);
  }
  const stands = (tick: Ticks) => (tick >= at ? tick + by : tick);
  moveRest(building, { set: (tick) => (tick > 0 ? stands(tick) : 0), stands }, name);
  restate(building, before, at, name);
  return building.done(name) ?? problem('There is nothing behind that place to be moved.');
}

/** A bar before the inserted ones that was cut short stays so: they begin with a meter of their own. */
function restate(building: Building, { tick, barTicks }: MeterPiece, at: Ticks, name: string): void {
  const bars = (at - tick) / barTicks;
  if (Math.abs(bars - Math.round(bars)) * barTicks < 1) return;
  const { meter } = building.song;
  const same = meterHeldAt(building.song, at);
  const rest = [...meter.filter((m) => m.tick <= at), same, ...meter.filter((m) => m.tick > at)];
  building.add({ kind: 'meter', name, to: rest });
}

/**
 * The edit that cuts whole bars out of all tracks: what begins in them goes, what is behind comes earlier. A note that
 * rings into them loses the time that goes. The tempo, meter and key that hold behind them hold there after.
 * @param bar the first of them, counted from 1
 */
export function cutBars(song: Song, bar: number, count: number): Done {
  const wrong = countProblem(count);
  if (wrong) return wrong;
  const meter = meterOf(song);
  const first = Math.max(1, Math.round(bar));
  const bars: Bars = { from: Math.ceil(meter.tickOfBar(first)), to: Math.ceil(meter.tickOfBar(first + count)) };
  const { from, to } = bars;
  const name = `Cut out ${counted(count, 'bar')}`;
  const building = new Building(song);
  for (const track of song.tracks) {
    cutTrack(building, track, from, name);
    cutTrack(building, track, to, name);
    const inside = partsOf(building, track).filter((p) => p.start >= from && p.start < to);
    if (inside.length > 0) {
      building.add({ kind: 'parts', name, track: track.id, remove: inside.map((p) => p.id), add: [] });
    }
    for (const part of partsOf(building, track).filter((p) => p.end <= from)) shortenInto(building, part, bars, name);
    for (const part of partsOf(building, track).filter((p) => p.start >= to)) {
      holdFrom(building, track.id, part, to - from, name);
      moveBy(building, track, part, from - to, name);
    }
  }
  // What is set within the bars holds from their start on, the last one of each kind.
  const earlier = (tick: Ticks) => (tick < from ? tick : Math.max(from, tick - (to - from)));
  const stands = (tick: Ticks) => (tick >= from && tick < to ? null : earlier(tick));
  moveRest(building, { set: earlier, stands }, name);
  return building.done(name) ?? problem('There is nothing in those bars or behind them.');
}

function partsOf(building: Building, { id }: Track): Part[] {
  return [...(building.song.tracks.find((t) => t.id === id)?.parts ?? [])];
}

function cutTrack(building: Building, track: Track, at: Ticks, name: string): void {
  const over = partsOf(building, track).find((p) => p.start < at && at < p.end);
  if (over) cutAt(building, over, at, name);
}

function moveBy(building: Building, track: Track, part: Part, by: Ticks, name: string): void {
  building.add({ kind: 'part-move', name, part: part.id, track: track.id, by });
}

/** Notes before the bars that ring into them, or over them, are shorter by as much of the bars as they sounded in. */
function shortenInto(building: Building, part: Part, { from, to }: Bars, name: string): void {
  const earlier = (tick: Ticks): Ticks => (tick < from ? tick : Math.max(from, tick - (to - from)));
  const span = <P extends { readonly start: Ticks; readonly length: Ticks }>(place: P): P => {
    const start = earlier(place.start);
    return {
      ...place,
      start,
      length: Math.max(Math.min(1, place.length), earlier(place.start + place.length) - start),
    };
  };
  const same = (a: { start: Ticks; length: Ticks }, b: { start: Ticks; length: Ticks }) =>
    a.start === b.start && a.length === b.length;
  const changed = part.notes.flatMap((note) => {
    const { exception, order } = note;
    const { length } = span(note);
    const pin = exception?.kind === 'pinned' ? span(exception) : exception;
    const stays = exception?.kind !== 'pinned' || pin?.kind !== 'pinned' || same(exception, pin);
    if (length === note.length && stays) return [];
    if (length === note.length) return changedNote(note, { exception: pin });
    const off = { order: order ? ([order[0], null] as const) : undefined, unended: undefined };
    return changedNote(note, { length, take: takeOf(note), exception: pin, ...off });
  });
  if (changed.length > 0) building.add(changeNotes(name, part, changed));
}

/** Where things come to lie, for what is set from a tick on and for what stands at one. */
interface Moves {
  readonly set: (tick: Ticks) => Ticks;
  readonly stands: (tick: Ticks) => Ticks | null;
}

/** Gives tempi, meters, markers and what is set in the tracks their new places. */
function moveRest(building: Building, { set, stands }: Moves, name: string): void {
  const { tempo, meter, markers, tracks } = building.song;
  const setList = <T extends { readonly tick: Ticks }>(list: readonly T[]): T[] =>
    list.map((t) => ({ ...t, tick: set(t.tick) })).filter((t, i, all) => all.at(i + 1)?.tick !== t.tick);
  if (tempo.some((t) => set(t.tick) !== t.tick)) building.add({ kind: 'tempo', name, to: setList(tempo) });
  if (meter.some((m) => set(m.tick) !== m.tick)) building.add({ kind: 'meter', name, to: setList(meter) });
  if (markers.some((m) => stands(m.tick) !== m.tick)) {
    const to = markers.flatMap((m) => {
      const tick = stands(m.tick);
      return tick === null ? [] : tick === m.tick ? m : { tick, name: m.name };
    });
    building.add({ kind: 'markers', name, to });
  }
  for (const track of tracks) moveSetup(building, track, { set, stands }, name);
}

/** Texts and what ends no note stand at their tick; all else is set from its tick on. */
function moveSetup(building: Building, track: Track, { set, stands }: Moves, name: string): void {
  const to = track.setup.map((e) => (isText(e) ? stands(e.tick) : set(e.tick)));
  const changed = track.setup.flatMap((e, i) => (to[i] === e.tick ? [] : [i]));
  if (changed.length > 0) {
    const left = track.setup.flatMap((event, i) => {
      const tick = to[i];
      return tick === null
        ? []
        : [{ event: tick === event.tick ? event : { ...event, tick }, moved: tick !== event.tick }];
    });
    const add = left.flatMap(({ event, moved }, at) => (moved ? [{ at, event }] : []));
    building.add({ kind: 'setup', name, track: track.id, remove: changed, add });
  }
  const end = track.origin && set(track.origin.end);
  if (end !== undefined && end !== track.origin?.end) {
    building.add({ kind: 'track-end', name, track: track.id, end });
  }
}

/** Texts, lyrics, cue points and their kin (meta events 1 to 7, RP-001), and note-offs that end nothing. */
function isText(event: SetupEvent): boolean {
  return event.type === 'stray-off' || (event.type === 'meta' && event.meta >= 1 && event.meta <= 7);
}
