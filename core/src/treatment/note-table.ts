import { atOnce, counting, inPieces, type Pieces } from '../maths';
import { knownOfKin, type Kin, type Part } from '../song';
import { columnsLike, sameColumns, toColumns, voiceOf, type NoteColumns } from './columns';
import { countMarks, MARK, marksOfNote, type Marks } from './marks';

type Notes = Part['notes'];

/** Which notes are under which settings, and which are held by a pin: indices, ascending. */
export interface Membership {
  /** By the id of own settings; by null those under the part's treatment. */
  readonly members: ReadonlyMap<string | null, Int32Array>;
  readonly pinned: Int32Array;
}

/** What the notes of a part say, as columns: what treatments and facts read. */
export interface NoteTable {
  readonly columns: NoteColumns;
  /** What each note has that most have not, as bits of {@link MARK}; and how many have it. */
  readonly bits: Uint8Array;
  readonly marks: Marks;
  /** Where the notes were played; the columns' own where no note has another take. Ticks. */
  readonly played: Float64Array;
  readonly playedEnd: Float64Array;
  /** How loud the notes were played, 1 to 127. */
  readonly playedVelocity: Uint8Array;
  /** Null where all notes are under the part's treatment. */
  readonly membership: Membership | null;
}

const tables = new WeakMap<Notes, NoteTable>();

/**
 * The table of some notes; the same object as long as they do not change. Of notes that were changed it is made from that
 * of the notes before, and shares with it whatever is the same.
 */
export function tableOf(notes: Notes): NoteTable {
  return tables.get(notes) ?? atOnce(tablePieces(notes));
}

/** {@link tableOf} very many notes, in pieces where they were changed one by one. */
export function* tablePieces(notes: Notes): Pieces<NoteTable> {
  let table = tables.get(notes);
  if (!table) tables.set(notes, (table = (yield* tableByKin(notes)) ?? newTable(notes)));
  return table;
}

function newTable(notes: Notes): NoteTable {
  const bits = new Uint8Array(notes.length);
  for (let i = 0; i < bits.length; i++) bits[i] = marksOfNote(notes[i]);
  return withPlayed(notes, toColumns(notes), bits);
}

function* tableByKin(notes: Notes): Pieces<NoteTable | null> {
  const known = knownOfKin(tables, notes);
  if (!known) return null;
  const { kin, value: like } = known;
  if (kin.list.length === notes.length) return yield* changedTable(notes, like, kin);
  const { from, end, endHere } = kin;
  const bits = new Uint8Array(notes.length);
  bits.set(like.bits.subarray(0, from));
  for (let i = from; i < end; i++) bits[i] = marksOfNote(notes[i]);
  bits.set(like.bits.subarray(endHere), end);
  return withPlayed(notes, columnsLike(notes, like.columns, kin), bits);
}

function withPlayed(notes: Notes, columns: NoteColumns, bits: Uint8Array): NoteTable {
  const marks = countMarks(bits);
  return {
    columns,
    bits,
    marks,
    ...(marks.take > 0 ? placesPlayed(notes, columns) : ownPlaces(columns)),
    membership: marks.exception > 0 ? membershipOf(notes, bits, marks) : null,
  };
}

type Played = Pick<NoteTable, 'played' | 'playedEnd' | 'playedVelocity'>;

function ownPlaces({ start, end, velocity }: NoteColumns): Played {
  return { played: start, playedEnd: end, playedVelocity: velocity };
}

function placesPlayed(notes: Notes, columns: NoteColumns): Played {
  const played = columns.start.slice();
  const playedEnd = columns.end.slice();
  const playedVelocity = columns.velocity.slice();
  for (let i = 0; i < notes.length; i++) {
    const { take } = notes[i];
    if (!take) continue;
    played[i] = take.start;
    playedEnd[i] = take.start + take.length;
    playedVelocity[i] = take.velocity;
  }
  return { played, playedEnd, playedVelocity };
}

/**
 * The table of as many notes of which some were changed. A column that comes out the same is that of before. One look at
 * each note that changed: with very many of them most of the time goes into fetching them from memory.
 */
function* changedTable(notes: Notes, like: NoteTable, kin: Kin): Pieces<NoteTable> {
  let { id, start, end, pitch, channel, velocity, voice } = like.columns;
  let { played, playedEnd, playedVelocity, bits } = like;
  const before = kin.list;
  const change = (first: number, last: number) => {
    for (let i = first; i < last; i++) {
      const note = notes[i];
      if (note === before[i]) continue;
      const ends = note.start + note.length;
      if (note.id !== id[i]) {
        if (id === like.columns.id) id = id.slice();
        id[i] = note.id;
      }
      if (note.start !== start[i]) {
        if (start === like.columns.start) start = start.slice();
        start[i] = note.start;
      }
      if (ends !== end[i]) {
        if (end === like.columns.end) end = end.slice();
        end[i] = ends;
      }
      if (note.velocity !== velocity[i]) {
        if (velocity === like.columns.velocity) velocity = velocity.slice();
        velocity[i] = note.velocity;
      }
      if (note.pitch !== pitch[i] || note.channel !== channel[i]) {
        if (pitch === like.columns.pitch) [pitch, channel, voice] = [pitch.slice(), channel.slice(), voice.slice()];
        pitch[i] = note.pitch;
        channel[i] = note.channel;
        voice[i] = voiceOf(note.channel, note.pitch);
      }
      const { take } = note;
      const from = take ? take.start : note.start;
      const to = take ? take.start + take.length : ends;
      const loud = take ? take.velocity : note.velocity;
      if (from !== played[i]) {
        if (played === like.played) played = played.slice();
        played[i] = from;
      }
      if (to !== playedEnd[i]) {
        if (playedEnd === like.playedEnd) playedEnd = playedEnd.slice();
        playedEnd[i] = to;
      }
      if (loud !== playedVelocity[i]) {
        if (playedVelocity === like.playedVelocity) playedVelocity = playedVelocity.slice();
        playedVelocity[i] = loud;
      }
      const marks = marksOfNote(note);
      if (marks !== bits[i]) {
        if (bits === like.bits) bits = bits.slice();
        bits[i] = marks;
      }
    }
  };
  yield* inPieces(kin.end, change, kin.from);
  const own = { count: notes.length, id, start, end, pitch, channel, velocity, voice };
  const columns = sameColumns(own, like.columns) ? like.columns : own;
  const marks = bits === like.bits ? like.marks : countMarks(bits);
  const stays = bits === like.bits && staysUnder(notes, kin, bits);
  return {
    columns,
    bits,
    marks,
    ...(marks.take > 0 ? { played, playedEnd, playedVelocity } : ownPlaces(columns)),
    membership: marks.exception === 0 ? null : stays ? like.membership : membershipOf(notes, bits, marks),
  };
}

function membershipOf(notes: Notes, bits: Uint8Array, marks: Marks): Membership {
  const members = new Map<string | null, Int32Array>();
  const under = withBits(bits, MARK.exception, 0, notes.length - marks.exception);
  if (under.length > 0) members.set(null, under);
  const own = new Map<string, number[]>();
  // Notes are looked at only where bits do not tell: fetching very many from memory takes longer than all else.
  for (const i of withBits(bits, MARK.exception | MARK.pin, MARK.exception, marks.exception - marks.pin)) {
    const { exception } = notes[i];
    if (exception?.kind !== 'own') continue;
    const list = own.get(exception.set);
    if (list) list.push(i);
    else own.set(exception.set, [i]);
  }
  for (const [set, list] of own) members.set(set, Int32Array.from(list));
  return { members, pinned: withBits(bits, MARK.pin, MARK.pin, marks.pin) };
}

/** The indices whose bits under a mask are some; there are so many of them. */
function withBits(bits: Uint8Array, mask: number, some: number, count: number): Int32Array {
  if (count === bits.length) return counting(count);
  const found = new Int32Array(count);
  let at = 0;
  for (let i = 0; at < count && i < bits.length; i++) if ((bits[i] & mask) === some) found[at++] = i;
  return found;
}

/** Whether each of as many notes is under the same settings as the one before it. @param bits of both */
function staysUnder(notes: Notes, { list: before, from, end }: Kin, bits: Uint8Array): boolean {
  for (let i = from; i < end; i++) {
    if ((bits[i] & MARK.exception) === 0) continue;
    const [now, then] = [notes[i].exception, before[i].exception];
    if (now === then) continue;
    if (now?.kind !== then?.kind) return false;
    if (now?.kind === 'own' && then?.kind === 'own' && now.set !== then.set) return false;
  }
  return true;
}
