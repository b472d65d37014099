import { transfer } from 'comlink';
import {
  carryOut,
  isProblem,
  LONG_STEP,
  notesIn,
  readableSteps,
  readDeed,
  replayVersion1,
  startHistory,
  type Deed,
  type Edit,
  type History,
  type Step,
} from '@early-sparrow/core/edit';
import { buffersOf, pack, packPieces, readSong, unpack } from '@early-sparrow/core/song';
import { inTurns } from '../common/in-turns';
import { askOnce } from '../workers/ask-once';
import type { JournalApi } from '../workers/journal-api';
import { journalWorker } from '../workers/journal-worker';
import { WorkerFault } from '../workers/worker-link';
import { appendSteps, type Appended } from './append-steps';
import type { Database, JournalEntry, Snapshot } from './database';

/** The song is not there any more: it was deleted, or the browser's data were cleared. */
export class GoneError extends Error {}
/** Somebody else has written steps to this song since. */
export class ConflictError extends Error {}

/** A song as it was kept, with its history and the number of its last step. */
export interface KeptSong {
  readonly history: History;
  readonly n: number;
  /** Steps that could not be read and were set aside; null where all could. */
  readonly damage: { readonly steps: number; readonly reason: string } | null;
}

/** A step with its number. */
export type NumberedDeed = Deed & { readonly n: number };

/** Snapshots and journals of songs: each change of them is one transaction. */
export class Journal {
  constructor(private readonly database: Database) {}

  /**
   * Opens a song: its snapshot and every step since. What cannot be replayed is set aside, and the rest opens.
   * @param mine whether this tab writes the song: only then is anything set aside
   * @returns undefined where there is none
   * @throws SongFormatError where the snapshot itself cannot be read
   */
  async open(id: string, mine: boolean): Promise<KeptSong | undefined> {
    const { snapshots, entries, journal } = this.database;
    const [snapshot, steps, old] = await this.database.transaction('r', snapshots, entries, journal, () =>
      Promise.all([
        snapshots.get(id),
        entries.where('song').equals(id).sortBy('n'),
        journal.where('song').equals(id).sortBy('seq'),
      ]),
    );
    if (!snapshot) return undefined;
    if (snapshot.n === undefined) {
      const steps1 = old.map((e) => e.step);
      const history = replayVersion1(snapshot.song, steps1);
      if (mine) await this.snapshot(id, history, 0);
      return { history, n: 0, damage: null };
    }
    const start = historyOf(snapshot);
    const { history, n, fault } = replay(start, snapshot.n, steps);
    if (fault === null) return { history, n, damage: null };
    const rest = steps.filter((s) => s.n > n);
    if (mine) await this.setAside(id, rest, fault);
    return { history, n, damage: { steps: rest.length, reason: fault } };
  }

  /** The steps after a number, as they follow each other; null where a gap shows that the snapshot is newer. */
  async since(id: string, n: number): Promise<readonly Deed[] | null> {
    const found = await this.database.entries
      .where('[song+n]')
      .between([id, n + 1], [id, Infinity])
      .toArray();
    if (!found.every((e, i) => e.n === n + 1 + i)) return null;
    return found.map(({ act, edit }) => ({ act, edit: unpack(edit) as Edit }));
  }

  /** Number of the last step of a song; undefined where the song is gone. */
  async last(id: string): Promise<number | undefined> {
    const { infos, snapshots, entries } = this.database;
    return this.database.transaction('r', infos, snapshots, entries, async () => {
      // Looked at so that a live query of this runs again: steps are written past Dexie, the list is told through it.
      await infos.get(id);
      const newest = await entries.where('[song+n]').between([id, 0], [id, Infinity]).last();
      if (newest) return newest.n;
      // The last step stays in the journal when a snapshot is written: without one nothing was done yet.
      return (await snapshots.where('id').equals(id).count()) > 0 ? 0 : undefined;
    });
  }

  /**
   * Writes steps behind the others, see {@link appendSteps}; those of very many notes in turns with the page and in a worker.
   * @throws GoneError, ConflictError, or what the browser throws where it cannot write
   */
  async append(id: string, deeds: readonly NumberedDeed[]): Promise<void> {
    const { database } = this;
    if (!database.isOpen()) await database.open();
    const long = deeds.some(({ edit }) => notesIn(edit) >= LONG_STEP);
    const appended =
      (long && (await this.appendApart(id, deeds))) ||
      (await appendSteps(
        database.backendDB(),
        id,
        deeds.map(({ n, act, edit }) => ({ song: id, n, act, edit: pack(edit) })),
      ));
    if (appended === 'gone') throw new GoneError();
    if (appended === 'conflict') throw new ConflictError();
  }

  /** @returns null where no worker can be had */
  private async appendApart(id: string, deeds: readonly NumberedDeed[]): Promise<Appended | null> {
    const steps: JournalEntry[] = [];
    for (const { n, act, edit } of deeds) steps.push({ song: id, n, act, edit: await inTurns(packPieces(edit)) });
    try {
      return await askOnce<JournalApi, Appended>(journalWorker, (api) =>
        api.append(this.database.name, id, transfer(steps, buffersOf(steps))),
      );
    } catch (error) {
      if (error instanceof WorkerFault) return null;
      throw error;
    }
  }

  /** Tells the list of songs what a song is called now, and when it was changed. */
  async tellList(id: string, name: string): Promise<void> {
    await this.database.infos.update(id, { name, changed: new Date().toISOString() });
  }

  /** Writes the song anew, with what undo and redo would do; the steps before its last leave the journal. */
  async snapshot(id: string, history: History, n: number): Promise<void> {
    const { snapshots, entries, journal } = this.database;
    await this.database.transaction('rw', snapshots, entries, journal, async () => {
      if ((await snapshots.where('id').equals(id).count()) === 0) throw new GoneError();
      await snapshots.put(snapshotOf(id, history, n));
      await entries.where('[song+n]').between([id, 0], [id, n], true, false).delete();
      await journal.where('song').equals(id).delete();
    });
  }

  /** Takes steps out of the journal and keeps them, damaged as they are. */
  private async setAside(song: string, steps: readonly JournalEntry[], reason: string): Promise<void> {
    const { entries, damaged } = this.database;
    const found = new Date().toISOString();
    await this.database.transaction('rw', entries, damaged, async () => {
      await damaged.add({ song, found, reason, entries: steps });
      await entries.where('[song+n]').between([song, steps[0].n], [song, Infinity]).delete();
    });
  }
}

/**
 * What is kept of a song as a whole. Where the user was at each step is forgotten with the session.
 * @param packed the song, where it is packed already
 */
export function snapshotOf(id: string, { song, undo, redo }: History, n: number, packed = pack(song)): Snapshot {
  const editsOf = (steps: readonly Step[]) => steps.map((s) => pack(s.edit));
  return { id, song: packed, n, undo: editsOf(undo), redo: editsOf(redo) };
}

function historyOf({ song, undo, redo }: Snapshot): History {
  const start = startHistory(readSong(unpack(song)));
  const readable = (steps: Snapshot['undo'] = []) => readableSteps(steps.map(unpack));
  return { ...start, undo: readable(undo), redo: readable(redo) };
}

function replay(
  start: History,
  from: number,
  steps: readonly JournalEntry[],
): { history: History; n: number; fault: string | null } {
  let history = start;
  let n = from;
  for (const step of steps) {
    // The last step that a snapshot holds stays in the journal, so that the next one has something to follow.
    if (step.n <= from) continue;
    if (step.n !== n + 1) return { history, n, fault: `step ${n + 1} is missing` };
    const deed = readDeed({ act: step.act, edit: unpack(step.edit) });
    const after = isProblem(deed) ? deed : carryOut(history, deed);
    if (isProblem(after)) return { history, n, fault: after.problem };
    history = after;
    n = step.n;
  }
  return { history, n, fault: null };
}
