import { meterHeldAt, tempoOf, type Marker, type Song, type SongMeter, type SongTempo, type Track } from '../song';
import type { Ticks } from '../time';
import { Building } from './building';
import type { Edit } from './edit';
import { problem, type EditProblem } from './kind';
import { apart, retimePart } from './retime';
import { freshPart } from './track-edits';

/**
 * What counts when a file comes into a song: its bars lie on the song's bars, every note sounds when it did in the file,
 * or the song takes the file's tempo and meter from there on.
 */
export type BroughtTempo = 'bars' | 'seconds' | 'file';

/** Where a file comes into a song. */
export interface Bringing {
  /** Where its first part begins, in ticks; null: at the bars that it has in its file. */
  readonly at: Ticks | null;
  readonly tempo: BroughtTempo;
}

/** The edit that brings the tracks of another song into one, as new tracks at the end, with its markers. */
export function bringIn(song: Song, other: Song, { at, tempo }: Bringing): Edit | EditProblem {
  const tracks = other.tracks.filter((t) => t.parts.length > 0);
  if (tracks.length === 0) return problem(`“${other.name}” has no notes in it.`);
  const name = `Bring in ${other.name}`.slice(0, 200);
  const first = Math.min(...tracks.map((t) => t.parts[0].start));
  // The place of the file that comes to the place of the song.
  const [from, to] = at === null ? [0, 0] : [first, Math.max(0, Math.round(at))];
  const placeOf = placing(song, other, from, to, tempo);
  const building = new Building(song);
  const add = tracks.map((track, i) => ({ at: song.tracks.length + i, track: brought(building, track, placeOf) }));
  building.add({ kind: 'tracks', name, remove: [], add });
  if (tempo === 'file') {
    const factor = song.ppq / other.ppq;
    const at = (tick: Ticks) => Math.round(to + Math.max(0, tick - from) * factor);
    building.add({ kind: 'tempo', name, to: spliced(song.tempo, to, tempoFrom(other, from), at) });
    building.add({ kind: 'meter', name, to: spliced(song.meter, to, meterFrom(other, from), at) });
  }
  if (other.markers.length > 0) {
    const fresh = other.markers.map((m): Marker => ({ tick: placeOf(m.tick), name: m.name }));
    const markers = [...song.markers, ...fresh].sort((a, b) => a.tick - b.tick);
    building.add({ kind: 'markers', name, to: markers });
  }
  return building.done(name) ?? problem(`“${other.name}” has no notes in it.`);
}

/** Where ticks of the other song come to lie; none before the song. */
function placing(song: Song, other: Song, from: Ticks, to: Ticks, tempo: BroughtTempo): (tick: Ticks) => Ticks {
  if (tempo === 'seconds') {
    const [own, theirs] = [tempoOf(song), tempoOf(other)];
    return (tick) => Math.max(0, Math.round(own.shift(to, theirs.between(from, tick))));
  }
  const factor = song.ppq / other.ppq;
  return (tick) => Math.max(0, Math.round(to + (tick - from) * factor));
}

/** A track with ids of its own, at other places. It has no place in the song's file. */
function brought(building: Building, track: Track, placeOf: (tick: Ticks) => Ticks): Track {
  const { origin: _origin, ...rest } = track;
  return {
    ...rest,
    id: `t${building.id()}`,
    parts: apart(track.parts.map((part) => freshPart(building, retimePart(part, placeOf)))),
    setup: track.setup.map((e) => ({ ...e, tick: placeOf(e.tick) })),
  };
}

/** A song's tempi from a tick on, the one that holds there first. */
function tempoFrom(song: Song, from: Ticks): SongTempo[] {
  const usPerQuarter = Math.round(60e6 / tempoOf(song).bpmAt(from));
  return [{ tick: from, usPerQuarter }, ...song.tempo.filter((t) => t.tick > from)];
}

function meterFrom(song: Song, from: Ticks): SongMeter[] {
  return [meterHeldAt(song, from), ...song.meter.filter((m) => m.tick > from)];
}

/** A list up to a tick, and another one from there on. */
function spliced<T extends { readonly tick: Ticks; readonly order?: number | undefined }>(
  list: readonly T[],
  to: Ticks,
  theirs: readonly T[],
  at: (tick: Ticks) => Ticks,
): T[] {
  const fresh = theirs.map(({ order: _order, ...rest }) => ({ ...rest, tick: at(rest.tick) }) as T);
  return [...list.filter((t) => t.tick < to), ...fresh];
}
