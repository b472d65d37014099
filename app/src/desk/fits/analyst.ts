import { computed, effect, inject, Injectable, signal, untracked, type OnDestroy } from '@angular/core';
import { proxy } from 'comlink';
import type { Analysis } from '@early-sparrow/core/insight';
import type { Note, Part } from '@early-sparrow/core/song';
import type { AnalysisApi } from '../../workers/analysis-api';
import { ask } from '../../workers/ask';
import { Treating } from '../treatment/treating';

type Notes = readonly Note[];

/** What was found, kept as long as the notes are; of equal starts the answer is the same. */
const known = new WeakMap<Notes, Analysis>();

/**
 * Finds out, in a worker, what fits the notes that the panel is about, and those of the parts chosen with them. It
 * starts by itself and goes part by part.
 */
@Injectable()
export class Analyst implements OnDestroy {
  private readonly treating = inject(Treating);
  private worker: Worker | null = null;
  private last: Notes | null = null;
  private readonly finished = signal(0);

  /** How far the running analyses are, from 0 to 1; null when none runs. */
  readonly progress = signal<number | null>(null);
  /** What went wrong, in a sentence; null while all is well. */
  readonly problem = signal<string | null>(null);

  /** What the panel is about: the notes of the part or exception at hand, then those of the other chosen parts. */
  private readonly wanted = computed((): readonly Notes[] => {
    const own = this.treating.subjectNotes();
    const others = this.treating.parts().slice(1);
    return own ? [own, ...others.map((p) => p.notes)] : [];
  });

  /** What was found for the part or exception at hand. */
  readonly analysis = computed((): Analysis | null => {
    const own = this.treating.subjectNotes();
    return own ? this.of(own) : null;
  });

  /** Whether everything that is wanted is known. */
  readonly complete = computed(() => this.wanted().every((notes) => this.of(notes) !== null));

  constructor() {
    effect(() => {
      this.wanted();
      untracked(() => this.again());
    });
  }

  /** What was found for some notes; null where it is not known yet. */
  of(notes: Notes): Analysis | null {
    this.finished();
    return known.get(notes) ?? null;
  }

  /** What was found for a part: for the own settings at hand, what was found for their notes. */
  ofPart(part: Part): Analysis | null {
    const own = part.id === this.treating.part()?.id ? this.treating.subjectNotes() : null;
    return this.of(own ?? part.notes);
  }

  /** Ends the running analyses; {@link again} starts them anew. */
  cancel(): void {
    this.end();
  }

  again(): void {
    this.end();
    this.problem.set(null);
    const missing = this.wanted().filter((notes) => !this.recall(notes));
    if (missing.length > 0) void this.run(missing);
  }

  /** Listens to other notes, such as those of a track to lift from. Null where it was not possible. */
  async listen(notes: Notes): Promise<Analysis | null> {
    if (!known.has(notes)) await this.analyse(notes, this.start(), () => undefined).catch(() => undefined);
    return known.get(notes) ?? null;
  }

  ngOnDestroy(): void {
    this.end();
  }

  private async run(missing: readonly Notes[]): Promise<void> {
    const worker = this.start();
    this.worker = worker;
    this.progress.set(0);
    try {
      for (const [i, notes] of missing.entries()) {
        await this.analyse(notes, worker, (share) => {
          if (this.worker === worker) this.progress.set((i + share) / missing.length);
        });
      }
    } catch {
      if (this.worker === worker) this.problem.set('Listening did not work. Press Find out to try again.');
    }
    if (this.worker === worker) this.end();
  }

  private start(): Worker {
    return new Worker(new URL('../../workers/analysis.worker', import.meta.url), { type: 'module' });
  }

  private async analyse(notes: Notes, worker: Worker, told: (share: number) => void): Promise<void> {
    const song = this.treating.song();
    const part = this.treating.part();
    if (!song || !part) return;
    const { ppq, tempo, meter } = song;
    try {
      const found = await ask<AnalysisApi, Analysis>(worker, (api) =>
        api.analyse({ ...part, notes }, { ppq, tempo, meter }, proxy(told)),
      );
      known.set(notes, found);
    } finally {
      if (worker !== this.worker) worker.terminate();
    }
    this.last = notes;
    this.finished.update((n) => n + 1);
  }

  /** Whether it is known; exceptions make a new list of the same starts, whose answer is the same. */
  private recall(notes: Notes): boolean {
    const { last } = this;
    const before = last && known.get(last);
    if (!known.has(notes) && last && before && sameStarts(notes, last)) {
      known.set(notes, before);
      this.finished.update((n) => n + 1);
    }
    return known.has(notes);
  }

  private end(): void {
    this.worker?.terminate();
    this.worker = null;
    this.progress.set(null);
  }
}

function sameStarts(a: Notes, b: Notes): boolean {
  return a.length === b.length && a.every((n, i) => n.start === b[i].start && n.pitch === b[i].pitch);
}
