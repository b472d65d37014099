import { computed, Injectable, signal, type OnDestroy } from '@angular/core';
import { parseGrid } from '@early-sparrow/core/grid';
import type { Recipe } from '@early-sparrow/core/recipe';
import { DEFAULT_TREATMENT, unpack, type Song } from '@early-sparrow/core/song';
import { askOnce } from '../workers/ask-once';
import type { BatchApi, FileAnswer, TrackResult } from '../workers/batch-api';
import { batchWorker } from '../workers/batch-worker';
import { doubtRank } from './batch-words';
import { Pool } from './pool';

export type Row = {
  readonly id: number;
  readonly file: File;
} & (
  | { readonly state: 'waiting' }
  | { readonly state: 'failed'; readonly reason: string }
  | {
      readonly state: 'done';
      /** The corrected file. */
      readonly result: Blob;
      readonly notices: readonly string[];
      readonly tracks: readonly TrackResult[];
    }
);
export type DoneRow = Row & { readonly state: 'done' };

/** How files are corrected: by what fits each, on lines of one's choice, or by a recipe. */
export type How =
  | { readonly kind: 'fits'; readonly strength: number }
  | { readonly kind: 'lines'; readonly grid: string; readonly strength: number }
  | { readonly kind: 'recipe'; readonly recipe: Recipe };

/** No more files than this at a time: each keeps its result. */
export const MOST_FILES = 5000;
/** The table is drawn anew so often at most while files are corrected, in ms. */
const SHOWN_EVERY = 200;

/** The recipe that a choice amounts to. @throws GridTextError */
export function recipeFor(how: How): Recipe {
  if (how.kind === 'recipe') return how.recipe;
  const auto = how.kind === 'fits';
  const grid = auto ? DEFAULT_TREATMENT.quantize.grid : parseGrid(how.grid);
  const quantize = { ...DEFAULT_TREATMENT.quantize, on: true, strength: how.strength, grid };
  return {
    kind: 'early-sparrow-recipe',
    version: 1,
    name: 'Many files',
    about: '',
    treatment: { ...DEFAULT_TREATMENT, quantize },
    auto: { grid: auto, lag: auto },
  };
}

/** Files that are corrected together, and what became of each. */
@Injectable()
export class Batch implements OnDestroy {
  private readonly pool = new Pool();
  private nextId = 0;
  private run: AbortController | null = null;
  private recipe: Recipe = recipeFor({ kind: 'fits', strength: 1 });
  /** Results that are not in the table yet. */
  private fresh = new Map<number, Row>();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly all = signal<readonly Row[]>([]);

  readonly running = signal(false);
  readonly count = computed(() => this.all().length);
  readonly done = computed(() => this.all().filter((r): r is DoneRow => r.state === 'done'));
  readonly failed = computed(() => this.all().filter((r) => r.state === 'failed').length);
  readonly waiting = computed(() => this.count() - this.done().length - this.failed());
  readonly doubtful = computed(() => this.done().filter((r) => doubtRank(r.tracks) > 0).length);

  /** The table: while it runs in the order of the files, then what somebody should look at first. */
  readonly rows = computed((): readonly Row[] => {
    const rows = this.all();
    if (this.running()) return rows;
    return [...rows].sort((a, b) => rank(b) - rank(a) || a.file.name.localeCompare(b.file.name));
  });

  ngOnDestroy(): void {
    this.cancel();
    this.pool.end();
  }

  /** Adds files and corrects them. Gives those that were too many. */
  add(files: readonly File[]): number {
    const room = Math.max(0, MOST_FILES - this.count());
    const rows = files.slice(0, room).map((file): Row => ({ id: this.nextId++, file, state: 'waiting' }));
    this.all.update((all) => [...all, ...rows]);
    void this.start();
    return files.length - rows.length;
  }

  remove(id: number): void {
    this.all.update((all) => all.filter((r) => r.id !== id));
  }

  clear(): void {
    this.cancel();
    this.all.set([]);
  }

  /** Corrects all of them anew. @throws GridTextError */
  use(how: How): void {
    this.recipe = recipeFor(how);
    this.cancel();
    this.fresh.clear();
    this.all.update((all) => all.map(({ id, file }): Row => ({ id, file, state: 'waiting' })));
    void this.start();
  }

  /** Files that are being corrected, and those that wait, are left as they are. */
  cancel(): void {
    this.run?.abort();
    this.run = null;
    this.show();
    this.running.set(false);
  }

  /** Corrects what waits. */
  async start(): Promise<void> {
    // What is added while it runs goes on behind.
    if (this.run) return;
    const run = new AbortController();
    this.run = run;
    this.running.set(true);
    for (;;) {
      const waiting = this.all().filter((r) => r.state === 'waiting' && !this.fresh.has(r.id));
      if (waiting.length === 0 || run.signal.aborted) break;
      const { recipe } = this;
      await this.pool.run(
        waiting,
        (api, { file }): Promise<FileAnswer> => api.correct(file, file.name, recipe),
        ({ id, file }, answer) => {
          if (run.signal.aborted) return;
          if (!answer) this.put({ id, file, state: 'failed', reason: BROKEN });
          else if (!answer.ok) this.put({ id, file, state: 'failed', reason: answer.reason });
          else {
            const { bytes, notices, tracks } = answer;
            const result = new Blob([bytes as BlobPart], { type: 'audio/midi' });
            this.put({ id, file, state: 'done', result, notices, tracks });
          }
        },
        run.signal,
      );
      this.show();
    }
    if (this.run !== run) return;
    this.run = null;
    this.running.set(false);
  }

  /** A file's song with its treatments on it; null where it cannot be made. */
  async song({ file }: Row): Promise<Song | null> {
    const { recipe } = this;
    const name = file.name.replace(/\.[^.]*$/, '');
    try {
      // Apart from the pool, which may be busy for long.
      const packed = await askOnce<BatchApi, unknown>(batchWorker, (api) => api.song(file, name, recipe));
      return unpack(packed) as Song;
    } catch {
      return null;
    }
  }

  /** What was done with each file, for the report. */
  reported(): { readonly recipe: Recipe; readonly rows: readonly Row[] } {
    return { recipe: this.recipe, rows: this.all() };
  }

  private put(row: Row): void {
    this.fresh.set(row.id, row);
    this.timer ??= setTimeout(() => this.show(), SHOWN_EVERY);
  }

  private show(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    const { fresh } = this;
    if (fresh.size === 0) return;
    this.fresh = new Map();
    this.all.update((all) => all.map((r) => fresh.get(r.id) ?? r));
  }
}

const BROKEN = 'The program failed, perhaps for want of memory. Correct it alone, or split it.';

function rank(row: Row): number {
  if (row.state === 'failed') return 10;
  return row.state === 'done' ? doubtRank(row.tracks) : -1;
}
