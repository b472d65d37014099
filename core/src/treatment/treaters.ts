import type { SongTime } from '../grid';
import { knownOfKin, perTime, sameTime, type Part, type SongTimes } from '../song';
import { pickColumns, type NoteColumns } from './columns';
import { tableOf } from './note-table';
import { Treater } from './treater';

/** A treater, with the notes that it was made for. */
interface Treating {
  readonly members: Int32Array | null;
  /** Of all notes of the part. */
  readonly columns: NoteColumns;
  readonly treater: Treater;
}

/** The treaters of some notes: one for those under the part's treatment, one for each set of own settings. */
class Treaters {
  private readonly bySet = new Map<string | null, Treating>();

  constructor(
    readonly notes: Part['notes'],
    private readonly time: SongTime,
  ) {}

  of(set: string | null, members: Int32Array | null): Treater {
    let found = this.bySet.get(set);
    if (!found) this.bySet.set(set, (found = this.made(set, members)));
    return found.treater;
  }

  /** Of notes that were changed what was found for those before holds where they start alike. */
  private made(set: string | null, members: Int32Array | null): Treating {
    const { columns } = tableOf(this.notes);
    const like = this.like()?.bySet.get(set);
    if (like?.members === members && like.columns === columns) return like;
    const own = members ? pickColumns(columns, members) : columns;
    const alike = like && (!members || like.members === members) ? like.treater : null;
    return { members, columns, treater: new Treater(own, this.time, alike) };
  }

  private like(): Treaters | undefined {
    const like = knownOfKin(latestTreaters, this.notes)?.value;
    return like && sameTime(like.time, this.time) ? like : undefined;
  }
}

const latestTreaters = new WeakMap<Part['notes'], Treaters>();

/** They ask again by themselves for lines that were not known: their chords stay. */
export const treatersOf = perTime(
  (notes: Part['notes'], _song: SongTimes, time) => {
    const treaters = new Treaters(notes, time);
    latestTreaters.set(notes, treaters);
    return treaters;
  },
  { lasting: true },
);
