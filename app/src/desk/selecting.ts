import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { changeNotes, type SimpleEdit } from '@early-sparrow/core/edit';
import { keepNotes, returnToTake, type Exception, type Note, type TakeParts } from '@early-sparrow/core/song';
import { treatPart } from '@early-sparrow/core/treatment';
import { DeskActions, deskFeature } from '../state/desk.feature';
import { pictureOf } from './picture';
import { Treating } from './treating';

/** Some notes that belong together: an exception's, or all that were left as played or pinned. */
export interface Chip {
  readonly key: string;
  readonly text: string;
  readonly setId: string | null;
  readonly ids: readonly number[];
}

/** The selected notes of the part at hand, and what can be done with them. */
@Injectable()
export class Selecting {
  private readonly store = inject(Store);
  private readonly treating = inject(Treating);
  readonly ids = this.store.selectSignal(deskFeature.selectSelection);
  readonly count = computed(() => this.ids().length);

  /** A chip for each kind of exception in the part. */
  readonly chips = computed((): Chip[] => {
    const part = this.treating.part();
    if (!part) return [];
    const of = (belongs: (e: Exception) => boolean) =>
      part.notes.filter((n) => n.exception && belongs(n.exception)).map((n) => n.id);
    const chips = part.sets.map((set): Chip => {
      const ids = of((e) => e.kind === 'own' && e.set === set.id);
      return { key: set.id, setId: set.id, ids, text: `${ids.length} ${set.name}` };
    });
    const played = of((e) => e.kind === 'as-played');
    const pinned = of((e) => e.kind === 'pinned');
    return [
      ...chips,
      { key: 'as-played', setId: null, ids: played, text: `${played.length} as played` },
      { key: 'pinned', setId: null, ids: pinned, text: `${pinned.length} pinned` },
    ].filter((c) => c.ids.length > 0);
  });

  select(ids: readonly number[]): void {
    this.store.dispatch(DeskActions.selectNotes({ ids }));
  }

  all(): void {
    this.select(this.treating.part()?.notes.map((n) => n.id) ?? []);
  }

  /** Selects notes by how they lie: all the early ones, the late ones, or those further off than `beyond` ms. */
  where(test: (beforeMs: number) => boolean): void {
    const part = this.treating.part();
    const song = this.treating.song();
    if (!part || !song) return;
    const { before } = pictureOf(part, song);
    this.select(part.notes.filter((_, i) => !Number.isNaN(before[i]) && test(before[i])).map((n) => n.id));
  }

  choose(chip: Chip): void {
    this.select(chip.ids);
    this.store.dispatch(DeskActions.selectSet({ setId: chip.setId }));
  }

  wholePart(): void {
    this.store.dispatch(DeskActions.selectSet({ setId: null }));
  }

  /** Gives the selected notes settings of their own, those of the part to begin with. */
  ownSettings(): void {
    const part = this.treating.part();
    const notes = this.notes();
    if (!part || notes.length === 0) return;
    const used = new Set(part.sets.map((s) => s.id));
    let n = 1;
    while (used.has(`own${n}`)) n++;
    const set = { id: `own${n}`, name: 'own settings', treatment: part.treatment };
    this.dispatch('Own settings', [
      { kind: 'sets', name: 'Own settings', part: part.id, sets: [...part.sets, set] },
      changeNotes('Own settings', part, withException(notes, { kind: 'own', set: set.id })),
    ]);
    this.store.dispatch(DeskActions.selectSet({ setId: set.id }));
  }

  asPlayed(): void {
    this.except('Leave as played', () => ({ kind: 'as-played' }));
  }

  /** Fixes the selected notes where they are now. */
  pin(): void {
    const place = this.places();
    this.except('Pin', (note) => ({ kind: 'pinned', ...place(note.id) }));
  }

  /** Gives the selected notes back to the part's treatment. */
  release(): void {
    this.except('Back into the treatment', () => undefined);
    this.wholePart();
  }

  /** Quantizes the selected notes alone: settings of their own at the given strength. */
  quantize(strength: number): void {
    const part = this.treating.part();
    const notes = this.notes();
    if (!part || notes.length === 0) return;
    const name = strength === 1 ? 'Quantize' : 'Quantize half-way';
    const known = part.sets.find((s) => s.name === name.toLowerCase());
    const treatment = { ...part.treatment, quantize: { ...part.treatment.quantize, on: true, strength } };
    const set = known ?? { id: `q${strength * 100}`, name: name.toLowerCase(), treatment };
    const sets = known ? part.sets : [...part.sets, set];
    this.dispatch(`${name} ${many(notes.length)}`, [
      { kind: 'sets', name, part: part.id, sets },
      changeNotes(name, part, withException(notes, { kind: 'own', set: set.id })),
    ]);
  }

  /** Makes the corrected places of the selected notes, or of the whole part, their own. */
  keep(): void {
    const part = this.treating.part();
    const song = this.treating.song();
    if (!part || !song) return;
    const { start, end, velocity } = treatPart(part, song);
    const ids = new Set(this.ids());
    const wanted = part.notes.flatMap((n, i) => (ids.size === 0 || ids.has(n.id) ? [i] : []));
    const kept = keepNotes(part, wanted, (i) => ({ start: start[i], end: end[i], velocity: velocity[i] }));
    this.dispatch(`Keep ${many(kept.length)}`, [changeNotes('Keep', part, kept)]);
  }

  /** Brings the selected notes, or the whole part, back to the take. */
  toTake(which: TakeParts): void {
    const part = this.treating.part();
    if (!part) return;
    const ids = new Set(this.ids());
    const back = returnToTake(
      part.notes.filter((n) => ids.size === 0 || ids.has(n.id)),
      which,
    );
    if (back.length > 0) this.dispatch(`Return ${many(back.length)} to the take`, [changeNotes('Return', part, back)]);
  }

  /** Moves notes by hand: they are pinned where they were dropped. */
  move(ids: readonly number[], ticks: number): void {
    const part = this.treating.part();
    if (!part || ids.length === 0 || ticks === 0) return;
    const place = this.places();
    const wanted = new Set(ids);
    const moved = part.notes
      .filter((n) => wanted.has(n.id))
      .map((note): Note => {
        const at = place(note.id);
        const start = Math.max(0, Math.round(at.start + ticks));
        return { ...note, exception: { kind: 'pinned', ...at, start } };
      });
    this.dispatch(`Move ${many(moved.length)}`, [changeNotes('Move', part, moved)]);
  }

  private notes(): Note[] {
    const ids = new Set(this.ids());
    return this.treating.part()?.notes.filter((n) => ids.has(n.id)) ?? [];
  }

  private places(): (id: number) => { start: number; length: number; velocity: number } {
    const part = this.treating.part();
    const song = this.treating.song();
    if (!part || !song) throw new Error('Nothing is open.');
    const { start, end, velocity } = treatPart(part, song);
    const index = new Map(part.notes.map((n, i) => [n.id, i]));
    return (id) => {
      const i = index.get(id) ?? 0;
      return { start: start[i], length: end[i] - start[i], velocity: velocity[i] };
    };
  }

  private except(name: string, exception: (note: Note) => Exception | undefined): void {
    const part = this.treating.part();
    const notes = this.notes();
    if (!part || notes.length === 0) return;
    const changed = notes.flatMap((n) => withException([n], exception(n)));
    this.dispatch(`${name}: ${many(notes.length)}`, [changeNotes(name, part, changed)]);
  }

  private dispatch(name: string, edits: SimpleEdit[]): void {
    this.store.dispatch(DeskActions.edit({ edit: { kind: 'several', name, edits } }));
  }
}

function withException(notes: readonly Note[], exception: Exception | undefined): Note[] {
  return notes.map((note): Note => {
    const { exception: _old, ...rest } = note;
    return exception ? { ...rest, exception } : rest;
  });
}

function many(n: number): string {
  return n === 1 ? 'one note' : `${n} notes`;
}
