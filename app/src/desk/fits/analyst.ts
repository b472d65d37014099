import { computed, effect, inject, Injectable, signal, untracked, type OnDestroy } from '@angular/core';
import { readTogether, type Analysis } from '@early-sparrow/core/insight';
import { sameTime, timeOf, type Note, type Part, type Song } from '@early-sparrow/core/song';
import type { SongTime } from '@early-sparrow/core/grid';
import { partColumns } from '@early-sparrow/core/treatment';
import type { AnalysisApi } from '../../workers/analysis-api';
import { analysisAhead, analysisWorker } from '../../workers/analysis-worker';
import { Cancelled, WorkerLink } from '../../workers/worker-link';
import { Treating } from '../hand/treating';

type Notes = readonly Note[];

/** What was found under a tempo and a meter, kept as long as the notes are; of equal starts the answer is the same. */
const known = new WeakMap<Notes, { readonly time: SongTime; readonly analysis: Analysis }>();

function knownFor(notes: Notes, song: Song | null): Analysis | null {
  const found = known.get(notes);
  return song && found && sameTime(found.time, timeOf(song)) ? found.analysis : null;
}

/**
 * Finds out, in a worker, what fits the notes that the panel is about, and those of the parts chosen with them. It
 * starts by itself and goes part by part.
 */
@Injectable()
export class Analyst implements OnDestroy {
  private readonly treating = inject(Treating);
  private readonly link = new WorkerLink<AnalysisApi>(analysisWorker);
  private running: AbortController | null = null;
  private last: Notes | null = null;
  private readonly finished = signal(0);

  /** How far the running analyses are, from 0 to 1; null when none runs. */
  readonly progress = signal<number | null>(null);
  /** What went wrong, in a sentence; null while all is well. */
  readonly problem = signal<string | null>(null);

  private readonly tempo = computed(() => this.treating.song()?.tempo);
  private readonly meter = computed(() => this.treating.song()?.meter);

  /** What the panel is about: the notes of the part or exception at hand, then those of the other chosen parts. */
  private readonly wanted = computed((): readonly Notes[] => {
    const own = this.treating.subjectNotes();
    const others = this.treating.parts().slice(1);
    return own ? [own, ...others.map((p) => p.notes)] : [];
  });

  /** What was found for the part or exception at hand. */
  readonly analysis = computed((): Analysis | null => {
    const own = this.treating.subjectNotes();
    return own ? this.agreeing(own) : null;
  });

  /** Whether everything that is wanted is known. */
  readonly complete = computed(() => this.wanted().every((notes) => this.of(notes) !== null));

  constructor() {
    analysisAhead();
    effect(() => {
      void [this.wanted(), this.tempo(), this.meter()];
      untracked(() => this.again());
    });
  }

  /** What was found for some notes; null where it is not known yet. */
  of(notes: Notes): Analysis | null {
    this.finished();
    return knownFor(notes, this.treating.song());
  }

  /** What was found for a part: for the current own settings, what was found for their notes. */
  ofPart(part: Part): Analysis | null {
    const own = part.id === this.treating.part()?.id ? this.treating.subjectNotes() : null;
    return this.agreeing(own ?? part.notes);
  }

  /** What was found for some notes; of the lags that they allow the one that agrees with the tracks that are known. */
  private agreeing(notes: Notes): Analysis | null {
    const analysis = this.of(notes);
    if (!analysis || analysis.readings.length === 0) return analysis;
    const parts = (this.treating.song()?.tracks ?? []).flatMap((t) => t.parts).filter((p) => p.notes !== notes);
    return readTogether([analysis, ...parts.map((p) => this.of(p.notes))])[0];
  }

  /** Ends the running analyses; {@link again} starts them anew. */
  cancel(): void {
    this.running?.abort();
    this.running = null;
    this.progress.set(null);
  }

  again(): void {
    const missing = this.wanted().filter((notes) => !this.recall(notes));
    // What runs already runs on: only for other notes it begins anew.
    if (missing.length > 0 && missing[0] === this.first && this.running) return;
    this.cancel();
    this.problem.set(null);
    if (missing.length > 0) void this.run(missing);
  }

  /** Listens to other notes, such as those of a track to lift from. Null where it was not possible. */
  async listen(notes: Notes): Promise<Analysis | null> {
    if (!this.of(notes)) await this.analyse(notes).catch(() => undefined);
    return this.of(notes);
  }

  ngOnDestroy(): void {
    this.cancel();
    this.link.end();
  }

  /** The notes that are being listened to. */
  private first: Notes | null = null;

  private async run(missing: readonly Notes[]): Promise<void> {
    const running = new AbortController();
    this.running = running;
    this.progress.set(0);
    try {
      for (const [i, notes] of missing.entries()) {
        this.first = notes;
        await this.analyse(notes, running.signal, (share) => this.progress.set((i + share) / missing.length));
      }
    } catch (error) {
      if (error instanceof Cancelled) return;
      this.problem.set('The analysis failed. Press Analyse to try again.');
    }
    if (this.running !== running) return;
    this.running = null;
    this.progress.set(null);
    // Others may have been chosen meanwhile.
    if (!this.problem() && this.treating.song()) this.again();
  }

  private async analyse(notes: Notes, signal?: AbortSignal, told?: (share: number) => void): Promise<void> {
    const song = this.treating.song();
    if (!song) return;
    const { ppq, tempo, meter } = song;
    await this.link.ask(
      async (api, tell) => {
        // Told meanwhile, where it was taken back and chosen again.
        if (knownFor(notes, song)) return;
        const analysis = await api.analyse(partColumns({ notes }), { ppq, tempo, meter }, tell);
        // Kept even if other notes were chosen meanwhile: they may be chosen again.
        known.set(notes, { time: timeOf(song), analysis });
        this.last = notes;
        this.finished.update((n) => n + 1);
      },
      {
        ...(signal ? { signal } : {}),
        ...(told ? { told } : {}),
      },
    );
  }

  /** Whether it is known; exceptions make a new list of the same starts, whose answer is the same. */
  private recall(notes: Notes): boolean {
    const song = this.treating.song();
    const { last } = this;
    const before = last && knownFor(last, song);
    if (!knownFor(notes, song) && song && last && before && sameStarts(notes, last)) {
      known.set(notes, { time: timeOf(song), analysis: before });
      this.finished.update((n) => n + 1);
    }
    return knownFor(notes, song) !== null;
  }
}

function sameStarts(a: Notes, b: Notes): boolean {
  return a.length === b.length && a.every((n, i) => n.start === b[i].start && n.pitch === b[i].pitch);
}
