import { atOnce, holdsInBlocks, inPieces, type Pieces } from '../maths';
import { areNotes, areNotesPieces } from './is-note';
import { makeNote, makePlace, type Note, type NoteDraft } from './note';

/**
 * Long lists of notes and numbers as columns, for a store that copies what it is given: a hundred thousand objects take
 * a browser half a second to copy, their columns a few milliseconds. Everything else stays as it is.
 */
export function pack(value: unknown, known?: Packed): unknown {
  if (Array.isArray(value)) return known?.get(value) ?? packList(value, known);
  if (!isPlain(value)) return value;
  return changed(value, (inside) => pack(inside, known));
}

/** {@link pack} of a value with very many notes, in pieces. */
export function* packPieces(value: unknown): Pieces<unknown> {
  const known = new Map<readonly unknown[], PackedNotes>();
  for (const list of notesIn(value)) {
    if (!(yield* areNotesPieces(list))) continue;
    const columns = newColumns(list.length);
    yield* inPieces(list.length, (from, to) => putNotes(columns, list, from, to));
    known.set(list, yield* slim(columns));
    yield;
  }
  return pack(value, known);
}

/** The memory of the columns in a packed value: it can go to another thread without being copied. */
export function buffersOf(packed: unknown): ArrayBuffer[] {
  if (isPlain(packed) && (packed['packed'] === 'notes' || packed['packed'] === 'numbers')) return columnsIn(packed);
  const holds = Array.isArray(packed) ? typeof packed[0] === 'object' : isPlain(packed);
  return holds ? Object.values(packed as object).flatMap(buffersOf) : [];
}

/** What columns hold beside their numbers, `rest`, is the song's own and stays. */
function columnsIn({ rest: _rest, ...columns }: Record<string, unknown>): ArrayBuffer[] {
  return Object.values(columns).flatMap((column) =>
    ArrayBuffer.isView(column) ? [column.buffer as ArrayBuffer] : isPlain(column) ? columnsIn(column) : [],
  );
}

/** Lists of notes that were packed already. */
type Packed = ReadonlyMap<readonly unknown[], PackedNotes>;

/** The long lists of notes in a value. */
function* notesIn(value: unknown): Generator<readonly unknown[]> {
  if (Array.isArray(value) && seemNotes(value)) yield value;
  else if (Array.isArray(value) ? typeof value[0] === 'object' : isPlain(value)) {
    for (const inside of Object.values(value as object)) yield* notesIn(inside);
  }
}

/** Whether a list is long, and seems to be of notes. */
function seemNotes(list: readonly unknown[]): boolean {
  const [first] = list;
  return list.length >= SHORT && isPlain(first) && typeof first['pitch'] === 'number';
}

/** What {@link pack} was given, as an equal value. What is packed and damaged stays as it is, for its reader to refuse. */
export function unpack(value: unknown): unknown {
  return unpackBut(value, new Map());
}

/** {@link unpack} of a value with very many notes, in pieces. */
export function* unpackPieces(value: unknown): Pieces<unknown> {
  const known = new Map<PackedNotes, readonly Note[]>();
  for (const notes of packedIn(value)) known.set(notes, yield* unpackNotes(notes));
  return unpackBut(value, known);
}

/** @param known lists of notes that were unpacked already */
function unpackBut(value: unknown, known: ReadonlyMap<PackedNotes, readonly Note[]>): unknown {
  const inside = (one: unknown) => unpackBut(one, known);
  if (Array.isArray(value)) return changedList(value, inside);
  if (!isPlain(value)) return value;
  if (value['packed'] === 'notes' && isNotes(value)) return known.get(value) ?? atOnce(unpackNotes(value));
  if (value['packed'] === 'numbers' && ArrayBuffer.isView(value['values']))
    return Array.from(value['values'] as Float64Array);
  return changed(value, inside);
}

/** The packed notes in a value. */
function* packedIn(value: unknown): Generator<PackedNotes> {
  if (isPlain(value) && value['packed'] === 'notes' && isNotes(value)) yield value;
  else if (Array.isArray(value) ? typeof value[0] === 'object' : isPlain(value)) {
    for (const inside of Object.values(value as object)) yield* packedIn(inside);
  }
}

/** Shorter lists are copied as fast as they are. */
const SHORT = 64;

function packList(list: readonly unknown[], known?: Packed): unknown {
  if (list.length >= SHORT && typeof list[0] === 'number') {
    return list.every((n) => typeof n === 'number')
      ? { packed: 'numbers', values: small(new Float64Array(list)) }
      : list;
  }
  if (seemNotes(list) && areNotes(list)) return packNotes(list);
  return changedList(list, (inside) => pack(inside, known));
}

/** Whole numbers that fit take half of the room, on the disk and on the way there. */
type Numbers = Float64Array | Uint32Array;

/** Places of notes, of their takes, or where they are pinned; `has` is 0 for a note without one. */
interface Places {
  readonly has: Uint8Array;
  readonly start: Numbers;
  readonly length: Numbers;
  readonly velocity: Uint8Array;
}

/** The order of notes among the events of their source; {@link NONE} is null, and NaN in what earlier versions kept. */
interface Orders {
  readonly has: Uint8Array;
  readonly on: Numbers;
  readonly off: Numbers;
}

interface PackedNotes {
  readonly packed: 'notes';
  readonly count: number;
  readonly id: Numbers;
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

function packNotes(list: readonly unknown[]): PackedNotes {
  const columns = newColumns(list.length);
  putNotes(columns, list, 0, list.length);
  return atOnce(slim(columns));
}

type Columns = { -readonly [K in keyof PackedNotes]: PackedNotes[K] } & { rest: [number, string, unknown][] };

function newColumns(count: number): Columns {
  return {
    packed: 'notes',
    count,
    id: new Float64Array(count),
    place: newPlaces(count),
    pitch: new Uint8Array(count),
    channel: new Uint8Array(count),
    release: new Uint8Array(count),
    rest: [],
  };
}

/** Puts some of a list's notes into columns. @param list as {@link areNotes} has passed it */
function putNotes(notes: Columns, list: readonly unknown[], from: number, to: number): void {
  const { count } = notes;
  for (let i = from; i < to; i++) {
    const note = list[i] as Record<string, unknown>;
    putPlace(notes.place, i, note);
    notes.id[i] = note['id'] as number;
    notes.pitch[i] = note['pitch'] as number;
    notes.channel[i] = note['channel'] as number;
    notes.release[i] = note['release'] === null ? NO_RELEASE : (note['release'] as number);
    const { order, take, exception } = note;
    let put = IN_EACH.length;
    if (isOrder(order)) {
      put++;
      putOrder((notes.order ??= newOrders(count)), i, order);
    }
    if (take !== undefined && isTake(take)) {
      put++;
      putPlace((notes.take ??= newPlaces(count)), i, take);
      if (isOrder(take['order'])) putOrder((notes.takeOrder ??= newOrders(count)), i, take['order']);
    }
    if (exception !== undefined && isPinned(exception)) {
      put++;
      putPlace((notes.pinned ??= newPlaces(count)), i, exception);
    }
    // To compare each key with all that have a column takes longer than everything else: most notes have no others.
    if (keyCount(note) > put) putRest(notes, i, note);
  }
}

/** What a note has that has no column. */
function putRest({ rest, order, take, pinned }: Columns, i: number, note: Record<string, unknown>): void {
  for (const key in note) {
    const column = key === 'order' ? order : key === 'take' ? take : key === 'exception' ? pinned : null;
    if (column?.has[i] !== 1 && !IN_EACH.includes(key)) rest.push([i, key, note[key]]);
  }
}

/** What each note has, and has a column for. */
const IN_EACH: readonly string[] = ['id', 'start', 'length', 'pitch', 'velocity', 'channel', 'release'];

function keyCount(value: object): number {
  let count = 0;
  for (const key in value) {
    void key;
    count++;
  }
  return count;
}

/** Columns in as little room as their numbers allow. */
function* slim(notes: Columns): Pieces<PackedNotes> {
  const { order, take, takeOrder, pinned } = notes;
  return {
    ...notes,
    id: small(notes.id),
    place: yield* slimPlaces(notes.place),
    ...(order ? { order: yield* slimOrders(order) } : {}),
    ...(take ? { take: yield* slimPlaces(take) } : {}),
    ...(takeOrder ? { takeOrder: yield* slimOrders(takeOrder) } : {}),
    ...(pinned ? { pinned: yield* slimPlaces(pinned) } : {}),
  };
}

function* slimPlaces({ start, length, ...rest }: Places): Pieces<Places> {
  yield;
  return { ...rest, start: small(start), length: small(length) };
}

function* slimOrders({ on, off, ...rest }: Orders): Pieces<Orders> {
  yield;
  return { ...rest, on: small(on), off: small(off) };
}

/** The same numbers in half of the room, where they fit. */
function small(numbers: Numbers): Numbers {
  const whole = new Uint32Array(numbers);
  const fits = holdsInBlocks(whole.length, (from, to) => {
    for (let i = from; i < to; i++) if (whole[i] !== numbers[i]) return false;
    return true;
  });
  return fits ? whole : numbers;
}

function* unpackNotes(packed: PackedNotes): Pieces<Note[]> {
  const { count, rest } = packed;
  const notes = new Array<NoteDraft>(count);
  yield* inPieces(count, (from, to) => takeNotes(notes, packed, from, to));
  for (const [i, key, value] of rest) if (i >= 0 && i < count) Object.assign(notes[i], { [key]: value });
  return notes;
}

/** Takes some notes out of their columns. */
function takeNotes(notes: NoteDraft[], packed: PackedNotes, from: number, to: number): void {
  const { id, place, pitch, channel, release, order, take, takeOrder, pinned } = packed;
  for (let i = from; i < to; i++) {
    notes[i] = makeNote(
      id[i],
      place.start[i],
      place.length[i],
      pitch[i],
      place.velocity[i],
      channel[i],
      release[i] === NO_RELEASE ? null : release[i],
      take?.has[i]
        ? makePlace(
            take.start[i],
            take.length[i],
            take.velocity[i],
            takeOrder?.has[i] ? orderAt(takeOrder, i) : undefined,
          )
        : undefined,
      pinned?.has[i]
        ? { kind: 'pinned', start: pinned.start[i], length: pinned.length[i], velocity: pinned.velocity[i] }
        : undefined,
      order?.has[i] ? orderAt(order, i) : undefined,
    );
  }
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

function putOrder(to: Orders, i: number, [on, off]: readonly [number | null, number | null]): void {
  to.has[i] = 1;
  to.on[i] = on ?? NONE;
  to.off[i] = off ?? NONE;
}

function orderAt({ on, off }: Orders, i: number): [number | null, number | null] {
  return [numberOrNull(on[i]), numberOrNull(off[i])];
}

/** No order is as large. */
const NONE = 0xffffffff;

function numberOrNull(order: number): number | null {
  return order === NONE || Number.isNaN(order) ? null : order;
}

function isOrder(value: unknown): value is readonly [number | null, number | null] {
  return Array.isArray(value) && value.length === 2;
}

/** A note's take that is a place and an order and nothing else. */
function isTake(value: unknown): value is Record<string, unknown> {
  return keyCount(value as object) === ('order' in (value as object) ? 4 : 3);
}

/** A note's exception that is a pin to a place and nothing else. */
function isPinned(value: unknown): value is Record<string, unknown> {
  return (value as Record<string, unknown>)['kind'] === 'pinned' && keyCount(value as object) === 4;
}

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
