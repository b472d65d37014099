import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import type { Edit } from '@early-sparrow/core/edit';
import { DEFAULT_TREATMENT, tempoOf, type Treatment } from '@early-sparrow/core/song';
import { describeTicks } from '@early-sparrow/core/time';
import { reportPart } from '@early-sparrow/core/treatment';
import { DeskActions, deskFeature } from '../state/desk.feature';

/** Some stages of a treatment with some of their settings. */
export type TreatmentChange = { readonly [S in keyof Treatment]?: Partial<Treatment[S]> };

/** The treatment of the part at hand: reading it, trying changes of it, and making them. */
@Injectable()
export class Treating {
  private readonly store = inject(Store);
  readonly song = this.store.selectSignal(deskFeature.selectSong);
  readonly track = this.store.selectSignal(deskFeature.selectTrack);
  readonly part = computed(() => this.track()?.parts[0] ?? null);
  private readonly also = this.store.selectSignal(deskFeature.selectAlso);
  private readonly tracks = this.store.selectSignal(deskFeature.selectTracks);
  /** All the parts that a change is for: that of the track at hand, and those chosen with it. */
  readonly parts = computed(() => {
    const part = this.part();
    const others = this.tracks()
      .filter((t) => this.also().includes(t.id))
      .flatMap((t) => t.parts);
    return part ? [part, ...others.filter((p) => p.id !== part.id)] : [];
  });
  /** Whether those parts have a stage set in different ways. */
  readonly mixed = computed(() => new Set(this.parts().map((p) => JSON.stringify(p.treatment))).size > 1);
  private readonly setId = this.store.selectSignal(deskFeature.selectSetId);
  /** The own settings that the panel is about; null for the whole part. */
  readonly set = computed(() => this.part()?.sets.find((s) => s.id === this.setId()) ?? null);
  readonly treatment = computed(() => this.set()?.treatment ?? this.part()?.treatment ?? null);
  readonly report = computed(() => {
    const song = this.song();
    const part = this.part();
    return song && part ? reportPart(part, song) : null;
  });
  /** Tempo at the part's beginning: what its amounts are told by. */
  readonly bpm = computed(() => {
    const song = this.song();
    return song ? tempoOf(song).bpmAt(this.part()?.start ?? 0) : 120;
  });

  /** Shows and sounds a change while a control moves; nothing is done yet. */
  try(name: string, change: TreatmentChange): void {
    this.store.dispatch(DeskActions.preview({ edit: this.edit(name, change) }));
  }

  /** Makes a change: one step for undo. */
  commit(name: string, change: TreatmentChange): void {
    const edit = this.edit(name, change);
    if (edit) this.store.dispatch(DeskActions.edit({ edit }));
  }

  setOn(on: boolean): void {
    const part = this.part();
    if (!part) return;
    const name = `${on ? 'Switch on' : 'Switch off'} the treatment of ${part.name}`;
    this.store.dispatch(DeskActions.edit({ edit: { kind: 'part-on', name, part: part.id, on } }));
  }

  /** An amount in ms in all three units, short: `11 t · 1/349 · 6.0 ms`. */
  inUnits(ms: number): string {
    const ppq = this.song()?.ppq ?? 960;
    return describeTicks((ms * ppq * this.bpm()) / 60_000, ppq, this.bpm()).replace(/ ticks?/, ' t');
  }

  private edit(name: string, change: TreatmentChange): Edit | null {
    return this.editBy(name, (t) => merge(t, change));
  }

  /** Whether a stage is not as it is to begin with. */
  differs(stage: keyof Treatment): boolean {
    return JSON.stringify(this.treatment()?.[stage]) !== JSON.stringify(DEFAULT_TREATMENT[stage]);
  }

  /** Puts a stage back to its default. */
  putBack(stage: keyof Treatment): void {
    this.commit(`Put back ${stage}`, { [stage]: DEFAULT_TREATMENT[stage] });
  }

  /** The edit that gives all the parts at hand, or the own settings at hand, a whole treatment. */
  editOf(name: string, treatment: Treatment): Edit | null {
    return this.editBy(name, () => treatment);
  }

  private editBy(name: string, change: (t: Treatment) => Treatment): Edit | null {
    const part = this.part();
    const set = this.set();
    if (!part) return null;
    if (set) {
      const sets = part.sets.map((s) => (s.id === set.id ? { ...s, treatment: change(s.treatment) } : s));
      return { kind: 'sets', name: `${name}, ${set.name}`, part: part.id, sets };
    }
    const parts = this.parts();
    const full = `${name}, ${parts.length > 1 ? `${parts.length} parts` : part.name}`;
    const edits = parts.map(
      (p) => ({ kind: 'treatment', name: full, part: p.id, treatment: change(p.treatment) }) as const,
    );
    return edits.length === 1 ? edits[0] : { kind: 'several', name: full, edits };
  }

  /** Shows another treatment without doing it; null shows what is. */
  preview(treatment: Treatment | null): void {
    this.store.dispatch(DeskActions.preview({ edit: treatment && this.editOf('Preview', treatment) }));
  }

  /** Makes a whole treatment one step. */
  apply(name: string, treatment: Treatment): void {
    const edit = this.editOf(name, treatment);
    if (edit) this.store.dispatch(DeskActions.edit({ edit }));
  }
}

function merge(t: Treatment, change: TreatmentChange): Treatment {
  return {
    lag: { ...t.lag, ...change.lag },
    quantize: { ...t.quantize, ...change.quantize },
    lengths: { ...t.lengths, ...change.lengths },
    push: { ...t.push, ...change.push },
    velocity: { ...t.velocity, ...change.velocity },
    humanize: { ...t.humanize, ...change.humanize },
    settle: { ...t.settle, ...change.settle },
  };
}
