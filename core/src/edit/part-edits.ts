import { findPart, findTrack, type Part, type Song, type Track } from '../song';
import type { Ticks } from '../time';
import { Building } from './building';
import { cutAt } from './cut-at';
import type { Edit } from './edit';
import { inTheWay } from './fit';
import { problem, type EditProblem } from './kind';
import { holdFrom } from './hold-from';
import { earliest, leading } from './shift';

/** What happens to what lies in the way: nothing is done, it is cut out, or it goes behind, with all that follows it. */
export type Over = 'refuse' | 'cut' | 'push';

/** Where parts go: ticks later, and rows further down the list of tracks. */
export interface PartsMove {
  readonly by: Ticks;
  readonly rows: number;
  /** Ids of the tracks as they are listed. */
  readonly listed: readonly string[];
}

interface Found {
  readonly part: Part;
  readonly track: Track;
}

type Done = Edit | EditProblem | null;

/** The parts of a song that have some ids, in order of time. */
function found(song: Song, ids: readonly string[]): Found[] {
  return ids.flatMap((id) => findPart(song, id) ?? []).sort((a, b) => a.part.start - b.part.start);
}

function called(verb: string, parts: readonly Found[]): string {
  return parts.length === 1 ? `${verb} ${parts[0].part.name || 'a part'}` : `${verb} ${parts.length} parts`;
}

/** The group stops at the song's start, and at the first and last track; where each part goes then. */
function targets({ ppq }: Song, parts: readonly Found[], { by, rows, listed }: PartsMove) {
  const least = Math.min(...parts.map(({ part }) => leading(part, ppq)));
  const ticks = Math.max(Math.round(by), 0 - least);
  const at = parts.map(({ track }) => listed.indexOf(track.id));
  const down = Math.max(0 - Math.min(...at), Math.min(listed.length - 1 - Math.max(...at), rows));
  return {
    ticks,
    down,
    to: parts.map(({ part }, i) => ({
      part,
      track: listed[at[i] + down],
      start: part.start + ticks,
      end: part.end + ticks,
    })),
  };
}

/** How far parts can go as one where they are to go so far: ticks, and rows. */
export function partsStop(song: Song, ids: readonly string[], move: PartsMove): { ticks: Ticks; down: number } {
  const parts = found(song, ids);
  const { ticks, down } = targets(song, parts, move);
  return parts.length > 0 ? { ticks, down } : { ticks: 0, down: 0 };
}

/** The edit that moves parts as one, over tracks too; null where they stay. */
export function moveParts(song: Song, ids: readonly string[], move: PartsMove, over: Over): Done {
  const parts = found(song, ids);
  if (parts.length === 0 || parts.some(({ track }) => !move.listed.includes(track.id))) return null;
  const { ticks, down, to } = targets(song, parts, move);
  if (ticks === 0 && down === 0) return null;
  const name = called('Move', parts);
  const building = new Building(song);
  const moving = new Set(ids);
  // What is pushed needs the places that the parts leave: they stand behind the song meanwhile.
  const aside =
    over === 'push' ? Math.max(...song.tracks.flatMap((t) => t.parts.map((p) => p.end))) + Math.abs(ticks) : 0;
  const shift = (part: Part, track: string, by: Ticks) =>
    building.add({ kind: 'part-move', name, part: part.id, track, by });
  for (const { part, track } of parts) holdFrom(building, track.id, part, 0 - ticks, name);
  if (aside > 0) for (const { part, track } of parts) shift(part, track.id, aside);
  for (const { track, start, end } of to) clear(building, track, moving, start, end, over, name);
  // Those that go first make room for those behind them.
  const row = (trackId: string) => move.listed.indexOf(trackId);
  const order = ticks > 0 ? [...to].reverse() : [...to];
  if (down !== 0) order.sort((a, b) => Math.sign(down) * (row(b.track) - row(a.track)));
  for (const { part, track } of order) shift(part, track, ticks - aside);
  return building.done(name);
}

/** The edit that copies parts to other places; @returns a problem where a copy would lie on what it is a copy of. */
export function copyParts(song: Song, ids: readonly string[], move: PartsMove, over: Over): Done {
  const parts = found(song, ids);
  if (parts.length === 0 || parts.some(({ track }) => !move.listed.includes(track.id))) return null;
  const { to } = targets(song, parts, move);
  const own = new Set(ids);
  for (const { track, start, end } of to) {
    const others = findTrack(song, track)?.parts ?? [];
    if (others.some((p) => own.has(p.id) && p.start < end && start < p.end)) {
      return problem('A copy would lie on the part that it is a copy of. Put it further away.');
    }
  }
  const name = called('Copy', parts);
  const building = new Building(song);
  for (const { track, start, end } of to) clear(building, track, new Set(), start, end, over, name);
  for (const { part, track, start } of to) copyTo(building, part, track, start, name);
  return building.done(name);
}

/** A copy of which something would begin before the song is made behind it first, held, and moved to its place. */
function copyTo(building: Building, part: Part, track: string, start: Ticks, name: string): void {
  const id = building.id();
  const ends = (findTrack(building.song, track)?.parts ?? []).map((p) => p.end);
  const aside = earliest(part) + start - part.start < 0 ? Math.max(...ends, part.end) - start : 0;
  building.add({ kind: 'part-copy', name, part: part.id, track, at: start + aside, id });
  const copy = aside > 0 ? findPart(building.song, `p${id}`)?.part : undefined;
  if (!copy) return;
  holdFrom(building, track, copy, aside, name);
  building.add({ kind: 'part-move', name, part: copy.id, track, by: 0 - aside });
}

/** So many copies are made at most at one go. */
const MOST_COPIES = 2000;

/** The edit that puts copies of parts right behind them, so many times, as one group. */
export function repeatParts(song: Song, ids: readonly string[], times: number, over: Over): Done {
  const parts = found(song, ids);
  if (parts.length === 0) return null;
  if (!(times >= 1 && times * parts.length <= MOST_COPIES)) {
    return problem(`Repeat a part 1 to ${MOST_COPIES.toLocaleString('en')} times.`);
  }
  const length = Math.max(...parts.map(({ part }) => part.end)) - parts[0].part.start;
  const name = called('Repeat', parts);
  const building = new Building(song);
  for (let k = 1; k <= times; k++) {
    for (const { part, track } of parts) {
      const start = part.start + k * length;
      clear(building, track.id, new Set(ids), start, start + part.end - part.start, over, name);
      building.add({ kind: 'part-copy', name, part: part.id, track: track.id, at: start, id: building.id() });
    }
  }
  return building.done(name);
}

/** The edit that cuts those of some parts that lie over a tick. */
export function cutParts(song: Song, ids: readonly string[], at: Ticks): Done {
  const tick = Math.round(at);
  const parts = found(song, ids).filter(({ part }) => part.start < tick && tick < part.end);
  if (parts.length === 0) return problem('No chosen part lies there. Move the playhead into one, then cut.');
  const name = called('Cut', parts);
  const building = new Building(song);
  for (const { part } of parts) cutAt(building, part, tick, name);
  return building.done(name);
}

/** The edit that joins parts that follow each other, track by track. */
export function joinParts(song: Song, ids: readonly string[]): Done {
  const parts = found(song, ids);
  const name = called('Join', parts);
  const building = new Building(song);
  let joined = 0;
  for (const track of new Set(parts.map((p) => p.track))) {
    const own = track.parts.filter((p) => ids.includes(p.id));
    for (const next of own.slice(1)) {
      building.add({ kind: 'part-join', name, part: own[0].id, with: next.id, id: building.id() });
      joined++;
    }
  }
  return joined > 0 ? building.done(name) : problem('Choose two or more parts of one track that follow each other.');
}

/** The edit that deletes parts, with all that is in them. */
export function removeParts(song: Song, ids: readonly string[]): Done {
  const parts = found(song, ids);
  const name = called('Delete', parts);
  const building = new Building(song);
  for (const track of new Set(parts.map((p) => p.track))) {
    const remove = track.parts.filter((p) => ids.includes(p.id)).map((p) => p.id);
    building.add({ kind: 'parts', name, track: track.id, remove, add: [] });
  }
  return building.done(name);
}

/** The edit that names, colours or mutes parts, all alike. */
export function lookParts(
  song: Song,
  ids: readonly string[],
  to: { readonly name?: string; readonly colour?: Part['colour']; readonly muted?: boolean },
): Done {
  const parts = found(song, ids);
  const verb = to.name !== undefined ? 'Name' : to.muted === undefined ? 'Colour' : to.muted ? 'Mute' : 'Unmute';
  const name = called(verb, parts);
  const building = new Building(song);
  for (const { part } of parts) {
    const look = {
      to: to.name ?? part.name,
      colour: to.colour === undefined ? part.colour : to.colour,
      muted: to.muted ?? part.muted,
    };
    building.add({ kind: 'part-look', name, part: part.id, ...look });
  }
  return building.done(name);
}

/** The edit that gives parts the treatment of one of them; null where all have it. */
export function treatAlike(song: Song, ids: readonly string[], like: string): Done {
  const model = findPart(song, like)?.part;
  if (!model) return problem('The part is gone.');
  const parts = found(song, ids).filter(
    ({ part }) => JSON.stringify(part.treatment) !== JSON.stringify(model.treatment) || part.on !== model.on,
  );
  const name = `Treat ${parts.length === 1 ? parts[0].part.name : `${parts.length} parts`} like ${model.name}`;
  const building = new Building(song);
  for (const { part } of parts) {
    building.add({ kind: 'treatment', name, part: part.id, treatment: model.treatment });
    if (part.on !== model.on) building.add({ kind: 'part-on', name, part: part.id, on: model.on });
  }
  return building.done(name);
}

/** The edit that gives a part another beginning or end; notes that would lie outside must be cut off first. */
export function resizePart(song: Song, id: string, span: { readonly start: Ticks; readonly end: Ticks }): Edit | null {
  const one = findPart(song, id);
  if (!one) return null;
  const [start, end] = [Math.max(0, Math.round(span.start)), Math.round(span.end)];
  if (start === one.part.start && end === one.part.end) return null;
  return { kind: 'part-span', name: `Resize ${one.part.name || 'a part'}`, part: id, start, end };
}

/** Makes room in a track for what comes into a span, as is wished. */
function clear(
  building: Building,
  trackId: string,
  except: ReadonlySet<string>,
  start: Ticks,
  end: Ticks,
  over: Over,
  name: string,
): void {
  const other = (): Part | undefined => {
    const track = findTrack(building.song, trackId);
    return track && inTheWay({ ...track, parts: track.parts.filter((p) => !except.has(p.id)) }, start, end);
  };
  for (let part = over === 'refuse' ? undefined : other(); part; part = other()) {
    const before = building.song;
    const inside = part.start < start ? cutAt(building, part, start, name) : part.id;
    if (over === 'push') push(building, trackId, except, Math.max(part.start, start), end, name);
    else {
      const last = part.end > end ? findPart(building.song, inside)?.part : undefined;
      if (last) cutAt(building, last, end, name);
      building.add({ kind: 'parts', name, track: trackId, remove: [inside], add: [] });
    }
    if (building.song === before) return;
  }
}

/** Moves the parts of a track from a tick on behind another. */
function push(
  building: Building,
  trackId: string,
  except: ReadonlySet<string>,
  from: Ticks,
  to: Ticks,
  name: string,
): void {
  const parts = (findTrack(building.song, trackId)?.parts ?? []).filter((p) => p.start >= from && !except.has(p.id));
  for (const part of [...parts].reverse()) {
    building.add({ kind: 'part-move', name, part: part.id, track: trackId, by: to - from });
  }
}
