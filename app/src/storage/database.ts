import Dexie, { type Table } from 'dexie';
import type { Act } from '@early-sparrow/core/edit';
import type { Recipe } from '@early-sparrow/core/recipe';
import type { Rule } from '@early-sparrow/core/rules';

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

/** A song as it was after so many steps, with what undo and redo would do then. */
export interface Snapshot {
  readonly id: string;
  /** Packed, and unchecked: it may be of an earlier version, or damaged. */
  readonly song: unknown;
  /** Number of the last step that is in it; absent in what version 1 kept. */
  readonly n?: number;
  /** Edits, packed and unchecked. */
  readonly undo?: readonly unknown[];
  readonly redo?: readonly unknown[];
}

/** One step of a song's journal: the edit that was applied. Replay depends on nothing but the step before. */
export interface JournalEntry {
  readonly song: string;
  /** 1 for the first step of a song, then one more each. */
  readonly n: number;
  readonly act: Act;
  /** An edit, packed and unchecked. */
  readonly edit: unknown;
}

/** A step of a journal of version 1. */
export interface OldEntry {
  readonly seq?: number;
  readonly song: string;
  readonly step: unknown;
}

/** Steps that could not be replayed: kept as they are, to be saved as a file. */
export interface Damaged {
  readonly id?: number;
  readonly song: string;
  /** ISO date on which it was found. */
  readonly found: string;
  readonly reason: string;
  readonly entries: readonly unknown[];
}

/** Some of what is being played in, written while it is played: a tab that is closed loses none of it. */
export interface PlayedChunk {
  readonly id?: number;
  readonly song: string;
  /** Which recording: they are told apart by when they began, as an ISO date. */
  readonly began: string;
  /** Unchecked: what goes where, and the messages. */
  readonly plan: unknown;
  readonly messages: unknown;
}

/** A sound file that a song plays along. */
export interface KeptFile {
  readonly song: string;
  /** SHA-256 of its bytes, in hex. */
  readonly file: string;
  readonly name: string;
  /** Of its bytes, so that all of them can be added up without being read. */
  readonly size: number;
  readonly bytes: ArrayBuffer;
}

/** The file on the user's disk that a song was opened from or saved to, where the browser gives such handles. */
export interface KeptHandle {
  readonly song: string;
  readonly handle: FileSystemFileHandle;
}

/** The user's own bank of sounds. */
export interface KeptBank {
  readonly name: string;
  readonly bytes: ArrayBuffer;
}

/** Everything that this browser keeps. */
export class Database extends Dexie {
  readonly infos!: Table<SongInfo, string>;
  readonly snapshots!: Table<Snapshot, string>;
  readonly entries!: Table<JournalEntry, [string, number]>;
  readonly damaged!: Table<Damaged, number>;
  readonly recipes!: Table<Recipe, string>;
  readonly rules!: Table<Rule, string>;
  readonly played!: Table<PlayedChunk, number>;
  readonly files!: Table<KeptFile, [string, string]>;
  readonly banks!: Table<KeptBank, string>;
  readonly handles!: Table<KeptHandle, string>;
  /** The journal of version 1; a song's steps leave it when the song is opened. */
  readonly journal!: Table<OldEntry, number>;

  constructor(name = 'early-sparrow') {
    // Strict: a write is done once it is on the disk, not once it is on its way there.
    super(name, { chromeTransactionDurability: 'strict' });
    this.version(1).stores({ infos: 'id, changed', snapshots: 'id', journal: '++seq, song', recipes: 'name' });
    this.version(2).stores({ entries: '[song+n], song', damaged: '++id, song' });
    this.version(3).stores({ played: '++id, song' });
    this.version(4).stores({ files: '[song+file], song', banks: 'name' });
    // Which step a snapshot ends with can be asked without reading it.
    this.version(5).stores({ snapshots: 'id, [id+n]' });
    // Long lists of notes are packed from here on: an earlier program must not take them for damaged.
    this.version(6).stores({});
    this.version(7).stores({ rules: 'name' });
    this.version(8).stores({ handles: 'song' });
    this.version(9)
      .stores({ files: '[song+file], song, size' })
      .upgrade(async (change) => {
        await change
          .table<KeptFile & { size?: number }>('files')
          .toCollection()
          .modify((f) => {
            f.size = f.bytes.byteLength;
          });
      });
    // Whole numbers take half of the room from here on, with a number for “none” that earlier programs would take as one.
    this.version(10).stores({});
  }
}
