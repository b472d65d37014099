import { GRID_VALUES } from '../grid';
import {
  findTrack,
  keyEvent,
  keyName,
  keysOf,
  meterOf,
  type FoundKey,
  type Marker,
  type Song,
  type SongKey,
  type SongMeter,
  type SongTempo,
} from '../song';
import { rampSteps, type Ramp, type Ticks } from '../time';
import { Building } from './building';
import { editsIn, type Edit } from './edit';
import { problem, type EditProblem } from './kind';

/** What stays where it is when the tempo changes: notes in their bars, or the time at which they sound. */
export type Keeping = 'bars' | 'seconds';

type Done = Edit | EditProblem | null;

/** Tempi that can be given, in quarter notes a minute. A file holds none below 3.6. */
export const LEAST_BPM = 4;
export const MOST_BPM = 1000;
/** Beats that a bar can have here; a file may hold more. */
export const MOST_BEATS = 64;
/** Letters of a marker's name at most. */
export const MOST_LETTERS = 1000;

function tempoProblem(...bpms: readonly number[]): EditProblem | null {
  const fits = bpms.every((bpm) => bpm >= LEAST_BPM && bpm <= MOST_BPM);
  return fits ? null : problem(`Type a tempo from ${LEAST_BPM} to ${MOST_BPM.toLocaleString('en')} BPM.`);
}

function bpmText(bpm: number): string {
  return `${Math.round(bpm * 100) / 100} BPM`;
}

/** The edit that gives a song another tempo map. */
function tempoEdit(song: Song, name: string, to: readonly SongTempo[], keep: Keeping): Edit {
  if (keep === 'bars') return { kind: 'tempo', name, to };
  return { kind: 'song-time', name, ppq: song.ppq, meter: song.meter, under: to, tempo: to };
}

/** A list with a thing in it in place of those at its tick. */
function placed<T extends { readonly tick: Ticks }>(list: readonly T[], thing: T): T[] {
  return [...list.filter((t) => t.tick < thing.tick), thing, ...list.filter((t) => t.tick > thing.tick)];
}

/** The edit that sets the tempo from a tick on, up to the next change. @param bpm quarter notes a minute */
export function placeTempo(song: Song, at: Ticks, bpm: number, keep: Keeping): Done {
  const wrong = tempoProblem(bpm);
  if (wrong) return wrong;
  const change = { tick: Math.max(0, Math.round(at)), usPerQuarter: Math.round(60e6 / bpm) };
  return tempoEdit(song, `Set the tempo to ${bpmText(bpm)}`, placed(song.tempo, change), keep);
}

/** The edit that makes the tempo go evenly from one to another; changes within the ramp go. */
export function placeRamp(song: Song, ramp: Ramp, keep: Keeping): Done {
  const wrong = tempoProblem(ramp.fromBpm, ramp.toBpm);
  if (wrong) return wrong;
  const [from, to] = [Math.max(0, Math.round(ramp.from)), Math.round(ramp.to)];
  if (!(to > from)) return problem('A ramp ends after it begins. Choose a later end.');
  const steps = rampSteps(song.ppq, { ...ramp, from, to });
  const list = [...song.tempo.filter((t) => t.tick < from), ...steps, ...song.tempo.filter((t) => t.tick > to)];
  return tempoEdit(song, `Ramp from ${bpmText(ramp.fromBpm)} to ${bpmText(ramp.toBpm)}`, list, keep);
}

/** The edit that removes the tempo changes of a stretch, both ends included; null where there are none. */
export function removeTempo(song: Song, from: Ticks, to: Ticks, keep: Keeping): Done {
  const list = song.tempo.filter((t) => t.tick < from || t.tick > to);
  return list.length === song.tempo.length ? null : tempoEdit(song, 'Remove a tempo change', list, keep);
}

/** The edit that puts a tempo change elsewhere; one that stands there goes. */
export function moveTempo(song: Song, from: Ticks, to: Ticks, keep: Keeping): Done {
  const change = song.tempo.findLast((t) => t.tick === from);
  const tick = Math.max(0, Math.round(to));
  if (!change || tick === from) return null;
  const rest = song.tempo.filter((t) => t.tick !== from);
  return tempoEdit(song, 'Move a tempo change', placed(rest, { tick, usPerQuarter: change.usPerQuarter }), keep);
}

/** The edit that begins bars of another meter at a tick; a bar that was not over there is cut short. */
export function placeMeter(song: Song, at: Ticks, numerator: number, denominator: number): Done {
  const found = GRID_VALUES.find((d) => d === denominator);
  if (!Number.isInteger(numerator) || numerator < 1 || numerator > MOST_BEATS || found === undefined) {
    return problem(`A meter has 1 to ${MOST_BEATS} beats of a whole, half, quarter, eighth, 16th, 32nd or 64th note.`);
  }
  const tick = Math.max(0, Math.round(at));
  const change: SongMeter = {
    tick,
    numerator,
    denominator: found,
    clocks: clocksOf(numerator, found),
    thirtySeconds: 8,
  };
  return { kind: 'meter', name: `Set the meter to ${numerator}/${found}`, to: placed(song.meter, change) };
}

/** MIDI clocks a click: one a beat, which is dotted in 6/8, 9/8 and 12/8; 24 are a quarter note. */
function clocksOf(numerator: number, denominator: number): number {
  const dotted = denominator === 8 && numerator % 3 === 0 && numerator > 3;
  return Math.max(1, Math.round(((dotted ? 3 : 1) * 96) / denominator));
}

/** The edit that removes the meter change at a tick; null where there is none. */
export function removeMeter(song: Song, at: Ticks): Done {
  const to = song.meter.filter((m) => m.tick !== at);
  return to.length === song.meter.length ? null : { kind: 'meter', name: 'Remove a meter change', to };
}

/** The edit that puts a meter change elsewhere. */
export function moveMeter(song: Song, from: Ticks, to: Ticks): Done {
  const change = song.meter.findLast((m) => m.tick === from);
  const tick = Math.max(0, Math.round(to));
  if (!change || tick === from) return null;
  const { order: _order, ...rest } = change;
  const list = placed(
    song.meter.filter((m) => m.tick !== from),
    { ...rest, tick },
  );
  return { kind: 'meter', name: 'Move a meter change', to: list };
}

/** The first bars after a tick that a meter change leaves shorter than their meter, by number. */
export function shortBars(song: Song, most = 3): number[] {
  const meter = meterOf(song);
  const found: number[] = [];
  for (const piece of meter.pieces) {
    if (piece.end === Infinity || found.length === most) break;
    const bars = (piece.end - piece.tick) / piece.barTicks;
    if (Math.abs(bars - Math.round(bars)) > 1e-9) found.push(piece.bar + Math.floor(bars));
  }
  return found;
}

function nameOfMarker(name: string): string | EditProblem {
  const text = name.trim();
  if (!text) return problem('A marker needs a name.');
  return text.length <= MOST_LETTERS
    ? text
    : problem(
        `A marker’s name has at most ${MOST_LETTERS.toLocaleString('en')} letters; this one has ${text.length.toLocaleString('en')}.`,
      );
}

/** The edit that puts a marker at a tick, behind others that stand there. */
export function placeMarker(song: Song, at: Ticks, name: string): Done {
  const text = nameOfMarker(name);
  if (typeof text !== 'string') return text;
  const tick = Math.max(0, Math.round(at));
  return markersEdit('Add a marker', song.markers, null, { tick, name: text });
}

/** The edit that renames a marker or puts it elsewhere. @param index in the song's list */
export function changeMarker(song: Song, index: number, to: { readonly tick?: Ticks; readonly name?: string }): Done {
  const marker = song.markers.at(index);
  if (!marker) return problem('The marker is gone.');
  const text = to.name === undefined ? marker.name : nameOfMarker(to.name);
  if (typeof text !== 'string') return text;
  const tick = Math.max(0, Math.round(to.tick ?? marker.tick));
  if (text === marker.name && tick === marker.tick) return null;
  return markersEdit(to.name === undefined ? 'Move a marker' : 'Rename a marker', song.markers, index, {
    tick,
    name: text,
  });
}

/** The edit that removes a marker. */
export function removeMarker(song: Song, index: number): Done {
  return index in song.markers
    ? markersEdit('Remove a marker', song.markers, index, null)
    : problem('The marker is gone.');
}

function markersEdit(name: string, list: readonly Marker[], without: number | null, add: Marker | null): Edit {
  const rest = list.filter((_, i) => i !== without);
  if (!add) return { kind: 'markers', name, to: rest };
  const behind = rest.filter((m) => m.tick <= add.tick).length;
  return { kind: 'markers', name, to: [...rest.slice(0, behind), add, ...rest.slice(behind)] };
}

/** The edit that names the key from a tick on, in the setup of the first track. */
export function placeKey(song: Song, key: SongKey): Done {
  const [first] = song.tracks;
  if (!first) return problem('A key is kept in a track. Add a track first.');
  const tick = Math.max(0, Math.round(key.tick));
  const name = `Set the key to ${keyName(key)}`;
  const building = new Building(song);
  for (const old of keysAt(song, tick)) takeKey(building, old, name);
  const setup = findTrack(building.song, first.id)?.setup ?? [];
  const at = setup.filter((e) => e.tick <= tick).length;
  building.add({ kind: 'setup', name, track: first.id, remove: [], add: [{ at, event: keyEvent({ ...key, tick }) }] });
  return building.done(name);
}

/** The edit that removes the key at a tick, of whichever track; null where none is named. */
export function removeKey(song: Song, at: Ticks): Done {
  const name = 'Remove a key';
  const building = new Building(song);
  for (const key of keysAt(song, at)) takeKey(building, key, name);
  return building.done(name);
}

/** The edit that puts a key elsewhere. */
export function moveKey(song: Song, from: Ticks, to: Ticks): Done {
  const key = keysOf(song).find((k) => k.tick === from);
  if (!key || Math.round(to) === from) return null;
  const name = 'Move a key';
  const building = new Building(song);
  for (const old of keysAt(song, from)) takeKey(building, old, name);
  const put = placeKey(building.song, { ...key, tick: to });
  if (put && 'problem' in put) return put;
  if (put) for (const one of editsIn(put)) building.add(one);
  return building.done(name);
}

/** Keys of any tracks at a tick, one a track. */
function keysAt(song: Song, tick: Ticks): FoundKey[] {
  return song.tracks.flatMap((track) => keysOf({ ...song, tracks: [track] }).filter((k) => k.tick === tick));
}

function takeKey(building: Building, { track, index }: FoundKey, name: string): void {
  building.add({ kind: 'setup', name, track, remove: [index], add: [] });
}
