import Dexie, { type Table } from 'dexie';
import type { Edit } from '@early-sparrow/core/edit';
import type { Recipe } from '@early-sparrow/core/recipe';
import type { Song } from '@early-sparrow/core/song';

/** A track in a few dozen strokes: how densely it is played along the song, and how it leans. */
export interface TrackGlance {
  readonly name: string;
  /** Share of the densest stretch, 0 to 9, one digit a stretch of equal length. */
  readonly density: string;
  /** How it leans against its own lines as it sounds now, in ms, early negative; 0 where it does not. */
  readonly leanMs: number;
}

/** What the list of songs shows of one. Times are ISO dates. */
export interface SongInfo {
  readonly id: string;
  readonly name: string;
  readonly created: string;
  readonly changed: string;
  readonly tracks: number;
  readonly notes: number;
  readonly seconds: number;
  /** Its tracks at a glance; songs that were kept by an earlier version get it when they are next changed. */
  readonly glance?: readonly TrackGlance[];
}

/** A song as it was when its journal was begun. */
export interface Snapshot {
  readonly id: string;
  readonly song: Song;
}

/** One step of a song's journal: an edit, or undo or redo of one. */
export type Step = { readonly type: 'do'; readonly edit: Edit } | { readonly type: 'undo' } | { readonly type: 'redo' };

export interface JournalEntry {
  readonly seq?: number;
  readonly song: string;
  readonly step: Step;
}

/** Everything that this browser keeps. */
export class Database extends Dexie {
  readonly infos!: Table<SongInfo, string>;
  readonly snapshots!: Table<Snapshot, string>;
  readonly journal!: Table<JournalEntry, number>;
  readonly recipes!: Table<Recipe, string>;

  constructor(name = 'early-sparrow') {
    super(name);
    this.version(1).stores({ infos: 'id, changed', snapshots: 'id', journal: '++seq, song', recipes: 'name' });
  }
}
