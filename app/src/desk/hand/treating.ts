import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { stepOf, type Edit } from '@early-sparrow/core/edit';
import type { Grid } from '@early-sparrow/core/grid';
import { median } from '@early-sparrow/core/maths';
import { timeOf, DEFAULT_TREATMENT, tempoOf, type Part, type Treatment } from '@early-sparrow/core/song';
import { describeTicks, type TimeAmount, type TypedAmount } from '@early-sparrow/core/time';
import { referencePlaces, reportPart, treatmentLines, treatPart } from '@early-sparrow/core/treatment';
import { unhurried, type PartOfSong } from '../../common/unhurried';
import { Changes } from '../../state/changes';
import { DeskActions, deskFeature } from '../../state/desk.feature';
import { ChosenParts } from './chosen-parts';

/** Some stages of a treatment with some of their settings; of the grid too, only what changes. */
export type TreatmentChange = {
  readonly [S in Exclude<keyof Treatment, 'quantize'>]?: Partial<Treatment[S]>;
} & { readonly quantize?: Partial<Omit<Treatment['quantize'], 'grid'>> & { readonly grid?: Partial<Grid> } };

/** What a part's treatment, or the current own settings, become; null leaves the part as it is. */
export type Retreat = (treatment: Treatment, part: Part) => Treatment | null;

/**
 * The treatment of the current part: reading it, trying changes of it, and making them. Changes start from the
 * song as it is, never from what is being tried, and each part gets only what was changed.
 */
@Injectable()
export class Treating {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  /** The song as it is. */
  readonly song = this.store.selectSignal(deskFeature.selectSong);
  /** The song with what is being tried. */
  readonly shownSong = this.store.selectSignal(deskFeature.selectShownSong);
  readonly track = this.store.selectSignal(deskFeature.selectTrack);
  readonly part = this.store.selectSignal(deskFeature.selectPart);
  readonly shownPart = this.store.selectSignal(deskFeature.selectShownPart);
  private readonly also = this.store.selectSignal(deskFeature.selectAlso);
  private readonly tracks = this.store.selectSignal(deskFeature.selectTracks);
  readonly trying = this.store.selectSignal(deskFeature.selectPreview);
  private readonly chosen = inject(ChosenParts);
  /** All the parts that a change is for: the current one, those chosen in the song view, and those of tracks chosen with it. */
  readonly parts = computed(() => {
    const part = this.part();
    const ids = new Set(this.chosen.ids());
    const others = this.tracks().flatMap((t) =>
      this.also().includes(t.id) ? t.parts : t.parts.filter((p) => ids.has(p.id)),
    );
    return part ? [part, ...others.filter((p) => p.id !== part.id)] : [];
  });
  /** Whether those parts have a stage set in different ways. */
  readonly mixed = computed(() => new Set(this.parts().map((p) => JSON.stringify(p.treatment))).size > 1);
  private readonly setId = this.store.selectSignal(deskFeature.selectSetId);
  /** The own settings that the panel is about; null for the whole part. */
  readonly set = computed(() => this.part()?.sets.find((s) => s.id === this.setId()) ?? null);
  /** The notes that the panel is about: those with the current own settings, else all of the part. */
  readonly subjectNotes = computed(
    () => {
      const part = this.part();
      const set = this.set();
      if (!part || !set) return part?.notes ?? null;
      return part.notes.filter((n) => n.exception?.kind === 'own' && n.exception.set === set.id);
    },
    { equal: (a, b) => a === b || (a?.length === b?.length && a?.every((n, i) => n === b?.[i])) === true },
  );
  /** Whether what is tried is only looked at: the pointer rests on it, and nothing comes of it unless it is pressed. */
  private readonly rests = signal(false);
  readonly resting = computed(() => this.rests() && this.trying() !== null);

  /**
   * What the sentences and controls show: what is set, with what a control under the finger is trying. What is only
   * rested on changes the picture alone: a panel that grew under the pointer would move what it rests on.
   */
  readonly treatment = computed(() => {
    if (this.resting()) return this.ownTreatment();
    const part = this.shownPart();
    return part?.sets.find((s) => s.id === this.setId())?.treatment ?? part?.treatment ?? null;
  });
  /** What is set, without what is being tried. */
  readonly ownTreatment = computed(() => this.set()?.treatment ?? this.part()?.treatment ?? null);
  private readonly shown = computed(() => {
    const [song, part] = [this.shownSong(), this.shownPart()];
    return song && part ? { song, part } : null;
  });
  /**
   * The song and the current part without what is being tried. Of a long part they follow once the picture has come to
   * rest: for what is said about them in words.
   */
  readonly rested = unhurried(
    () => {
      const [song, part] = [this.song(), this.part()];
      return song && part ? { song, part } : null;
    },
    (of) => of,
  );
  readonly report = unhurried(this.shown, ({ part, song }) => reportPart(part, song));
  private readonly moves = unhurried(this.shown, typicalMoves);
  /** How far the typical note moves that the panel is about, in ms: pinned notes and other own settings count for nothing. */
  readonly typicalMove = computed(() => this.moves()?.get(this.set()?.id ?? null) ?? 0);
  /** The chords of what is current, with their lines, as they are set. */
  readonly chords = computed(() => {
    const song = this.song();
    const part = this.part();
    const set = this.set()?.id ?? null;
    return song && part ? (treatPart(part, song).groups.find((g) => g.set === set)?.chords ?? null) : null;
  });
  /** Chords of the track that what is current lines up with; null without one. */
  readonly reference = computed(() => {
    const song = this.song();
    const use = this.ownTreatment()?.quantize.with;
    return song && use ? referencePlaces(use, this.track(), song) : null;
  });
  /** Tempo at the part's beginning: what its amounts are told by. */
  readonly bpm = computed(() => {
    const song = this.song();
    return song ? tempoOf(song).bpmAt(this.part()?.start ?? 0) : 120;
  });
  readonly ppq = computed(() => this.song()?.ppq ?? 960);

  /** Shows and sounds a change while a control moves; nothing is done yet. */
  try(name: string, change: TreatmentChange): void {
    this.tryEach(name, (t) => merge(t, change));
  }

  /** Makes a change: one step for undo. */
  commit(name: string, change: TreatmentChange, how = 'treat'): void {
    this.commitEach(name, (t) => merge(t, change), how);
  }

  /** Shows and sounds what each part would become. */
  tryEach(name: string, retreat: Retreat, resting = false): void {
    this.rests.set(resting);
    this.store.dispatch(DeskActions.preview({ edit: this.edit(name, retreat) }));
  }

  /** Gives each current part, or the current own settings, another treatment: one step for undo. */
  commitEach(name: string, retreat: Retreat, how = 'treat'): void {
    const edit = this.edit(name, retreat);
    if (edit) this.changes.make(edit, how);
    else this.endTrying();
  }

  /** Changes the part's treatment even while own settings are open: for what only the whole part has. */
  commitPart(name: string, change: TreatmentChange): void {
    const part = this.part();
    if (!part) return;
    const treatment = merge(part.treatment, change);
    this.changes.make({ kind: 'treatment', name: `${name}, ${part.name}`, part: part.id, treatment }, 'treat');
  }

  endTrying(): void {
    if (this.trying()) this.store.dispatch(DeskActions.preview({ edit: null }));
  }

  /** Switches the whole treatment of all current parts. */
  setOn(on: boolean): void {
    const parts = this.parts().filter((p) => p.on !== on);
    if (parts.length === 0) return;
    const whose = parts.length > 1 ? `${parts.length} parts` : parts[0].name;
    const name = `${on ? 'Switch on' : 'Switch off'} the treatment of ${whose}`;
    const edit = stepOf(
      name,
      parts.map((p) => ({ kind: 'part-on', name, part: p.id, on })),
    );
    if (edit) this.changes.make(edit, 'treat');
  }

  /** An amount in all three units, short: `11 t · 6.0 ms`. */
  inUnits({ value, unit }: TypedAmount): string {
    if (unit === 'percent') return `${value} % of half the gap`;
    const ticks = unit === 'ticks' ? value : (value * this.ppq() * this.bpm()) / 60_000;
    return describeTicks(ticks, this.ppq(), this.bpm()).replace(/ ticks?/, ' t');
  }

  /** An amount in ms as it counts at the part's beginning. */
  inMs({ value, unit }: TimeAmount): number {
    return unit === 'ms' ? value : (value * 60_000) / (this.ppq() * this.bpm());
  }

  /** Half of the gap between the lines at the part's beginning, in ms: what shares of it are told by. */
  readonly halfGapMs = computed(() => {
    const song = this.song();
    const part = this.part();
    const treatment = this.treatment();
    if (!song || !part || !treatment) return 0;
    const time = timeOf(song);
    const gap = treatmentLines(treatment.quantize, time).gapAt(part.start);
    return time.tempo.between(part.start, part.start + gap) / 2;
  });

  /** Whether a stage is not as it is to begin with. */
  differs(stage: keyof Treatment): boolean {
    return JSON.stringify(this.ownTreatment()?.[stage]) !== JSON.stringify(DEFAULT_TREATMENT[stage]);
  }

  /** Puts a stage back to its default. */
  putBack(stage: keyof Treatment): void {
    this.commitEach(`Put back ${stage}`, (t) => ({ ...t, [stage]: DEFAULT_TREATMENT[stage] }));
  }

  private edit(name: string, retreat: Retreat): Edit | null {
    const part = this.part();
    const set = this.set();
    if (!part) return null;
    if (set) {
      const treatment = retreat(set.treatment, part);
      if (!treatment) return null;
      const sets = part.sets.map((s) => (s.id === set.id ? { ...s, treatment } : s));
      return { kind: 'sets', name: `${name}, ${set.name}`, part: part.id, sets };
    }
    const parts = this.parts();
    const full = `${name}, ${parts.length > 1 ? `${parts.length} parts` : part.name}`;
    const edits = parts.flatMap((p) => {
      const treatment = retreat(p.treatment, p);
      return treatment ? [{ kind: 'treatment', name: full, part: p.id, treatment } as const] : [];
    });
    return stepOf(full, edits);
  }
}

/** A treatment with some settings changed and all others as they were. */
export function merge(t: Treatment, change: TreatmentChange): Treatment {
  const { grid, ...quantize } = change.quantize ?? {};
  return {
    lag: { ...t.lag, ...change.lag },
    quantize: { ...t.quantize, ...quantize, grid: { ...t.quantize.grid, ...grid } },
    lengths: { ...t.lengths, ...change.lengths },
    push: { ...t.push, ...change.push },
    velocity: { ...t.velocity, ...change.velocity },
    humanize: { ...t.humanize, ...change.humanize },
    settle: { ...t.settle, ...change.settle },
  };
}

/** How far the typical note under a part's treatment moves, and under each of its own settings, by id; in ms. */
function typicalMoves({ part, song }: PartOfSong): ReadonlyMap<string | null, number> {
  const { groups, columns, start } = treatPart(part, song);
  const { tempo } = timeOf(song);
  return new Map(
    groups.map(({ set, members }) => {
      const moves: number[] = [];
      for (let k = 0; k < (members?.length ?? columns.count); k++) {
        const i = members?.[k] ?? k;
        if (start[i] !== columns.start[i]) moves.push(Math.abs(tempo.between(columns.start[i], start[i])));
      }
      return [set, moves.length > 0 ? median(Float64Array.from(moves)) : 0];
    }),
  );
}
