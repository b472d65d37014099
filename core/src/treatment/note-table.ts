import { kinOf, type Kin, type Part } from '../song';
import { columnsLike, toColumns, type NoteColumns } from './columns';
import { countMarks, marksLike, type Marks } from './marks';

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
  let table = tables.get(notes);
  if (!table) tables.set(notes, (table = tableByKin(notes) ?? newTable(notes)));
  return table;
}

function newTable(notes: Notes): NoteTable {
  const columns = toColumns(notes);
  const marks = countMarks(notes);
  return {
    columns,
    marks,
    ...(marks.takes > 0 ? placesPlayed(notes, columns) : ownPlaces(columns)),
    membership: marks.exceptions > 0 ? membershipOf(notes) : null,
  };
}

function tableByKin(notes: Notes): NoteTable | null {
  const kin = kinOf(notes).find(({ list }) => tables.has(list));
  const like = kin && tables.get(kin.list);
  if (!like) return null;
  const columns = columnsLike(notes, like.columns, kin);
  const marks = marksLike(notes, like.marks, kin);
  const paired = kin.list.length === notes.length;
  return {
    columns,
    marks,
    ...playedLike(notes, columns, marks, paired ? like : null, kin),
    membership:
      marks.exceptions === 0
        ? null
        : paired && like.membership && staysUnder(notes, kin)
          ? like.membership
          : membershipOf(notes),
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

/** @param like of as many notes, or null for none */
function playedLike(
  notes: Notes,
  columns: NoteColumns,
  marks: Marks,
  like: Played | null,
  { list, from, end }: Kin,
): Played {
  if (marks.takes === 0) return ownPlaces(columns);
  if (!like) return placesPlayed(notes, columns);
  let { played, playedEnd, playedVelocity } = like;
  for (let i = from; i < end; i++) {
    if (notes[i] === list[i]) continue;
    const { start, length, velocity } = notes[i].take ?? notes[i];
    if (start !== played[i]) {
      if (played === like.played) played = played.slice();
      played[i] = start;
    }
    if (start + length !== playedEnd[i]) {
      if (playedEnd === like.playedEnd) playedEnd = playedEnd.slice();
      playedEnd[i] = start + length;
    }
    if (velocity !== playedVelocity[i]) {
      if (playedVelocity === like.playedVelocity) playedVelocity = playedVelocity.slice();
      playedVelocity[i] = velocity;
    }
  }
  return { played, playedEnd, playedVelocity };
}

function membershipOf(notes: Notes): Membership {
  const members = new Map<string | null, number[]>();
  const pinned: number[] = [];
  for (let i = 0; i < notes.length; i++) {
    const { exception } = notes[i];
    if (exception?.kind === 'pinned') pinned.push(i);
    if (exception && exception.kind !== 'own') continue;
    const key = exception?.set ?? null;
    const list = members.get(key);
    if (list) list.push(i);
    else members.set(key, [i]);
  }
  return {
    members: new Map([...members].map(([key, list]) => [key, Int32Array.from(list)])),
    pinned: Int32Array.from(pinned),
  };
}

/** Whether each of as many notes is under the same settings as the one before it. */
function staysUnder(notes: Notes, { list: before, from, end }: Kin): boolean {
  for (let i = from; i < end; i++) {
    const [now, then] = [notes[i].exception, before[i].exception];
    if (now === then) continue;
    if (now?.kind !== then?.kind) return false;
    if (now?.kind === 'own' && then?.kind === 'own' && now.set !== then.set) return false;
  }
  return true;
}
