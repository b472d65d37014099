import { isNote } from './is-note';
import type { Note } from './note';

/**
 * Long lists of notes and numbers as columns, for a store that copies what it is given: a hundred thousand objects take
 * a browser half a second to copy, their columns a few milliseconds. Everything else stays as it is.
 */
export function pack(value: unknown): unknown {
  if (Array.isArray(value)) return packList(value);
  if (!isPlain(value)) return value;
  return changed(value, pack);
}

/** What {@link pack} was given, as an equal value. What is packed and damaged stays as it is, for its reader to refuse. */
export function unpack(value: unknown): unknown {
  if (Array.isArray(value)) return changedList(value, unpack);
  if (!isPlain(value)) return value;
  if (value['packed'] === 'notes' && isNotes(value)) return unpackNotes(value);
  if (value['packed'] === 'numbers' && ArrayBuffer.isView(value['values']))
    return Array.from(value['values'] as Float64Array);
  return changed(value, unpack);
}

/** Shorter lists are copied as fast as they are. */
const SHORT = 64;

function packList(list: readonly unknown[]): unknown {
  const [first] = list;
  if (list.length >= SHORT) {
    if (typeof first === 'number') {
      return list.every((n) => typeof n === 'number') ? { packed: 'numbers', values: Float64Array.from(list) } : list;
    }
    if (isPlain(first) && typeof first['pitch'] === 'number') return packNotes(list) ?? list;
  }
  return changedList(list, pack);
}

/** Places of notes, of their takes, or where they are pinned; `has` is 0 for a note without one. */
interface Places {
  readonly has: Uint8Array;
  readonly start: Float64Array;
  readonly length: Float64Array;
  readonly velocity: Uint8Array;
}

/** The order of notes among the events of their source; NaN is null. */
interface Orders {
  readonly has: Uint8Array;
  readonly on: Float64Array;
  readonly off: Float64Array;
}

interface PackedNotes {
  readonly packed: 'notes';
  readonly count: number;
  readonly id: Float64Array;
  readonly place: Places;
  readonly pitch: Uint8Array;
  readonly channel: Uint8Array;
  /** 255 is null. */
  readonly release: Uint8Array;
  readonly order?: Orders;
  readonly take?: Places;
  readonly takeOrder?: Orders;
  readonly pinned?: Places;
  /** What only some notes have, and whatever has no column: note, key, value. */
  readonly rest: readonly (readonly [number, string, unknown])[];
}

/** Null where something in the list is no note. */
function packNotes(list: readonly unknown[]): PackedNotes | null {
  const count = list.length;
  const notes = {
    packed: 'notes' as const,
    count,
    id: new Float64Array(count),
    place: newPlaces(count),
    pitch: new Uint8Array(count),
    channel: new Uint8Array(count),
    release: new Uint8Array(count),
    order: undefined as Orders | undefined,
    take: undefined as Places | undefined,
    takeOrder: undefined as Orders | undefined,
    pinned: undefined as Places | undefined,
    rest: [] as [number, string, unknown][],
  };
  for (let i = 0; i < count; i++) {
    const note = list[i] as Record<string, unknown>;
    if (!isNote(note)) return null;
    putPlace(notes.place, i, note);
    for (const key in note) {
      const value = note[key];
      if (key === 'start' || key === 'length' || key === 'velocity') continue;
      if (key === 'id') notes.id[i] = value as number;
      else if (key === 'pitch') notes.pitch[i] = value as number;
      else if (key === 'channel') notes.channel[i] = value as number;
      else if (key === 'release') notes.release[i] = value === null ? NO_RELEASE : (value as number);
      else if (key === 'order' && isOrder(value)) putOrder((notes.order ??= newOrders(count)), i, value);
      else if (key === 'take' && isTake(value)) {
        putPlace((notes.take ??= newPlaces(count)), i, value);
        if (isOrder(value['order'])) putOrder((notes.takeOrder ??= newOrders(count)), i, value['order']);
      } else if (key === 'exception' && isPinned(value)) putPlace((notes.pinned ??= newPlaces(count)), i, value);
      else notes.rest.push([i, key, value]);
    }
  }
  return notes;
}

function unpackNotes(packed: PackedNotes): Note[] {
  const { count, id, place, pitch, channel, release, order, take, takeOrder, pinned, rest } = packed;
  const notes: Record<string, unknown>[] = new Array<Record<string, unknown>>(count);
  for (let i = 0; i < count; i++) {
    const note: Record<string, unknown> = {
      id: id[i],
      start: place.start[i],
      length: place.length[i],
      pitch: pitch[i],
      velocity: place.velocity[i],
      channel: channel[i],
      release: release[i] === NO_RELEASE ? null : release[i],
    };
    if (order?.has[i]) note['order'] = orderAt(order, i);
    if (take?.has[i]) {
      const first: Record<string, unknown> = placeAt(take, i);
      if (takeOrder?.has[i]) first['order'] = orderAt(takeOrder, i);
      note['take'] = first;
    }
    if (pinned?.has[i]) note['exception'] = { kind: 'pinned', ...placeAt(pinned, i) };
    notes[i] = note;
  }
  for (const [i, key, value] of rest) if (i >= 0 && i < count) notes[i][key] = value;
  return notes as unknown as Note[];
}

const NO_RELEASE = 255;

function newPlaces(count: number): Places {
  return {
    has: new Uint8Array(count),
    start: new Float64Array(count),
    length: new Float64Array(count),
    velocity: new Uint8Array(count),
  };
}

function newOrders(count: number): Orders {
  return { has: new Uint8Array(count), on: new Float64Array(count), off: new Float64Array(count) };
}

function putPlace(to: Places, i: number, place: Record<string, unknown>): void {
  to.has[i] = 1;
  to.start[i] = place['start'] as number;
  to.length[i] = place['length'] as number;
  to.velocity[i] = place['velocity'] as number;
}

function placeAt({ start, length, velocity }: Places, i: number): Record<string, unknown> {
  return { start: start[i], length: length[i], velocity: velocity[i] };
}

function putOrder(to: Orders, i: number, [on, off]: readonly [number | null, number | null]): void {
  to.has[i] = 1;
  to.on[i] = on ?? NaN;
  to.off[i] = off ?? NaN;
}

function orderAt({ on, off }: Orders, i: number): [number | null, number | null] {
  return [Number.isNaN(on[i]) ? null : on[i], Number.isNaN(off[i]) ? null : off[i]];
}

function isOrder(value: unknown): value is readonly [number | null, number | null] {
  return Array.isArray(value) && value.length === 2;
}

/** A take that is a place and an order and nothing else. */
function isTake(value: unknown): value is Record<string, unknown> {
  if (!isPlain(value)) return false;
  for (const key in value) if (key !== 'order' && !(key in PLACE)) return false;
  return true;
}

/** A pin that is a place and nothing else. */
function isPinned(value: unknown): value is Record<string, unknown> {
  if (!isPlain(value) || value['kind'] !== 'pinned') return false;
  for (const key in value) if (key !== 'kind' && !(key in PLACE)) return false;
  return true;
}

const PLACE = { start: 0, length: 0, velocity: 0 };

/** Whether columns are there and as long as they should be. */
function isNotes(value: Record<string, unknown>): value is Record<string, unknown> & PackedNotes {
  const { count, id, place, pitch, channel, release, order, take, takeOrder, pinned, rest } = value;
  const long = (column: unknown) => ArrayBuffer.isView(column) && (column as Uint8Array).length === count;
  const columns = (group: unknown, keys: readonly string[]) => isPlain(group) && keys.every((key) => long(group[key]));
  const orders = (group: unknown) => group === undefined || columns(group, ['has', 'on', 'off']);
  const places = (group: unknown) => columns(group, ['has', 'start', 'length', 'velocity']);
  return (
    [id, pitch, channel, release].every(long) &&
    places(place) &&
    [take, pinned].every((group) => group === undefined || places(group)) &&
    [order, takeOrder].every(orders) &&
    Array.isArray(rest)
  );
}

function isPlain(value: unknown): value is Record<string, unknown> {
  return Object.prototype.toString.call(value) === '[object Object]';
}

/** An object with its values changed; the same one where none is. */
function changed(value: Record<string, unknown>, change: (value: unknown) => unknown): Record<string, unknown> {
  let copy: Record<string, unknown> | null = null;
  for (const key of Object.keys(value)) {
    const now = change(value[key]);
    if (now !== value[key]) (copy ??= { ...value })[key] = now;
  }
  return copy ?? value;
}

function changedList(list: readonly unknown[], change: (value: unknown) => unknown): readonly unknown[] {
  let copy: unknown[] | null = null;
  for (let i = 0; i < list.length; i++) {
    const now = change(list[i]);
    if (now !== list[i]) (copy ??= list.slice())[i] = now;
  }
  return copy ?? list;
}
