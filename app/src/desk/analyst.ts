import { computed, effect, inject, Injectable, signal, type OnDestroy } from '@angular/core';
import { proxy, wrap } from 'comlink';
import type { Analysis } from '@early-sparrow/core/insight';
import type { Part } from '@early-sparrow/core/song';
import type { AnalysisApi } from '../workers/analysis-api';
import { Treating } from './treating';

const known = new WeakMap<Part['notes'], Analysis>();

/** Finds out, in a worker, what fits the part at hand. It starts by itself and is remembered while the notes stay. */
@Injectable()
export class Analyst implements OnDestroy {
  private readonly treating = inject(Treating);
  private worker: Worker | null = null;
  private readonly finished = signal(0);

  /** How far the running analysis is, from 0 to 1; null when none runs. */
  readonly progress = signal<number | null>(null);
  readonly analysis = computed(() => {
    this.finished();
    const notes = this.treating.part()?.notes;
    return notes ? (known.get(notes) ?? null) : null;
  });

  private readonly notes = computed(() => this.treating.part()?.notes ?? null);

  constructor() {
    effect(() => {
      const notes = this.notes();
      this.cancel();
      if (notes && !known.has(notes)) void this.run(notes);
    });
  }

  /** Ends a running analysis; {@link again} starts it anew. */
  cancel(): void {
    this.worker?.terminate();
    this.worker = null;
    this.progress.set(null);
  }

  again(): void {
    const notes = this.notes();
    if (notes) void this.run(notes);
  }

  ngOnDestroy(): void {
    this.cancel();
  }

  private async run(notes: Part['notes']): Promise<void> {
    const song = this.treating.song();
    const part = this.treating.part();
    if (!song || !part) return;
    this.cancel();
    const worker = new Worker(new URL('../workers/analysis.worker', import.meta.url), { type: 'module' });
    this.worker = worker;
    this.progress.set(0);
    const { ppq, tempo, meter } = song;
    const told = proxy((share: number) => {
      if (this.worker === worker) this.progress.set(share);
    });
    const analysis = await wrap<AnalysisApi>(worker).analyse(part, { ppq, tempo, meter }, told);
    known.set(notes, analysis);
    if (this.worker === worker) this.cancel();
    this.finished.update((n) => n + 1);
  }
}
