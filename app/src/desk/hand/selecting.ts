import { computed, inject, Injectable, type Signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { keepPieces, returnEdit } from '@early-sparrow/core/edit';
import { formatGrid } from '@early-sparrow/core/grid';
import { idSet, type IdSet } from '@early-sparrow/core/maths';
import {
  changedNote,
  notesAt,
  type Exception,
  type Note,
  type OwnSet,
  type Part,
  type TakeParts,
  type Treatment,
} from '@early-sparrow/core/song';
import { partEdits, takeUp, type Taken } from '@early-sparrow/core/shape';
import { exceptionsOf, marksOf } from '@early-sparrow/core/treatment';
import { counted } from '../../common/format';
import { Said } from '../../common/said';
import { Changes } from '../../state/changes';
import { DeskActions, deskFeature, type Goes } from '../../state/desk.feature';
import { pictureOf } from './picture';
import { Following } from './following';
import { LongSteps } from './long-steps';
import { Treating } from './treating';

/** Some notes that belong together: an exception's, or all that were left as played or pinned. */
export interface Chip {
  readonly key: string;
  readonly text: string;
  readonly setId: string | null;
  /** How many notes. */
  readonly count: number;
}

/** The selected notes of the current part, and what can be done with them. */
@Injectable()
export class Selecting {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly treating = inject(Treating);
  private readonly said = inject(Said);
  private readonly steps = inject(LongSteps);
  private readonly following = inject(Following, { optional: true });
  readonly ids = this.store.selectSignal(deskFeature.selectSelection);
  /** The part whose other versions Keep asked about, as it was then. */
  private asked: Part | null = null;
  readonly chosen: Signal<IdSet> = computed(() => idSet(this.ids()));
  readonly count = computed(() => this.ids().length);

  /** A chip for each kind of exception in the part, called what it is. */
  readonly chips = computed((): Chip[] => {
    const part = this.treating.part();
    const exceptions = part && exceptionsOf(part);
    if (!exceptions) return [];
    const { exception, pin, dropped } = marksOf(part);
    let own = 0;
    for (const [set, members] of exceptions.members) if (set !== null) own += members.length;
    const chip = (key: string, setId: string | null, count: number, name: string): Chip => ({
      key,
      setId,
      count,
      text: `${count} ${name}`,
    });
    const ofSet = ({ id, treatment }: OwnSet) => {
      const which = part.sets.length > 1 ? `: ${formatGrid(treatment.quantize.grid)}` : '';
      return chip(id, id, exceptions.members.get(id)?.length ?? 0, `with own settings${which}`);
    };
    return [
      ...part.sets.map(ofSet),
      chip('as-played', null, exception - pin - dropped - own, 'as played'),
      chip('pinned', null, pin, 'pinned'),
      chip('dropped', null, dropped, 'muted doubles'),
    ].filter((c) => c.count > 0);
  });

  select(ids: readonly number[]): void {
    this.store.dispatch(DeskActions.selectNotes({ ids }));
  }

  /** All notes of the part; where they are selected already, all of the track. */
  all(): void {
    const notes = this.treating.part()?.notes ?? [];
    const has = this.chosen();
    const track = this.treating.track();
    const whole = notes.length > 0 && notes.every((n) => has.has(n.id));
    this.select((whole && track ? track.parts.flatMap((p) => p.notes) : notes).map((n) => n.id));
  }

  /** Selects notes by how they were played: by their offset in ms, early negative. */
  where(test: (playedMs: number) => boolean): void {
    const part = this.treating.part();
    const song = this.treating.song();
    if (!part || !song) return;
    const { before } = pictureOf(part, song);
    const ids = part.notes.filter((_, i) => !Number.isNaN(before[i]) && test(before[i])).map((n) => n.id);
    this.select(ids);
    if (ids.length === 0) this.said.say('No notes match.');
  }

  choose({ key, setId }: Chip): void {
    const belongs = ({ exception }: Note) =>
      setId === null ? exception?.kind === key : exception?.kind === 'own' && exception.set === setId;
    this.select((this.treating.part()?.notes ?? []).filter(belongs).map((n) => n.id));
    this.store.dispatch(DeskActions.selectSet({ setId }));
  }

  wholePart(): void {
    this.store.dispatch(DeskActions.selectSet({ setId: null }));
  }

  /** Gives the selected notes settings of their own, those of their part to begin with, and opens them. */
  ownSettings(): void {
    this.giveSets('Own settings', ({ treatment }) => treatment, true);
  }

  asPlayed(): void {
    this.except('Leave as played', () => ({ kind: 'as-played' }));
  }

  /** Fixes the selected notes where they are now. */
  pin(): void {
    this.except('Pin', ({ start, length, velocity }) => ({ kind: 'pinned', start, length, velocity }));
  }

  /** Gives the selected notes back to the part's treatment. */
  release(): void {
    this.except('Put back into the treatment', () => undefined, { set: null });
  }

  /** Quantizes the selected notes alone, to the grid that their part has now: own settings at the given strength. */
  quantize(strength: number): void {
    const part = this.treating.part();
    const parts = this.byPart();
    if (!part || parts.length === 0) return;
    const name = strength === 1 ? 'Quantize' : 'Quantize half-way';
    if (parts.length === 1 && parts[0].part === part && parts[0].notes.length === part.notes.length) {
      // All of them is the part: an exception for everything would leave the part's own settings without a note.
      this.treating.commit(name, { quantize: { on: true, starts: true, strength } });
      return;
    }
    this.giveSets(name, ({ treatment }) => ({
      ...treatment,
      quantize: { ...treatment.quantize, on: true, starts: true, strength },
    }));
  }

  /** Makes the corrected places of the selected notes, or of the whole part, their own. */
  keep(): void {
    const part = this.treating.part();
    const song = this.treating.song();
    if (!part || !song) return;
    if (this.following?.busy()) {
      this.said.say('The lines are still being found. Press Keep again in a moment.');
      return;
    }
    const others = part.versions?.others.length ?? 0;
    if (others > 0 && this.asked !== part) {
      this.asked = part;
      const them = others === 1 ? 'another version of its treatment' : `${others} other versions of its treatment`;
      this.said.say(
        `This part has ${them}, made for the notes as played. Press Keep again to keep this one and drop them.`,
      );
      return;
    }
    this.asked = null;
    // All of them is the part: its stages go off with it, and no note is left an exception.
    const some = this.count() > 0 && this.count() < part.notes.length;
    this.steps.make(part.notes.length, keepPieces(song, part.id, some ? this.ids() : null), 'keep', (refused, name) => {
      if (refused === undefined) this.said.say('The treatment of this part is off, so there is nothing to keep.');
      else if (!refused) this.said.say(`${name}. It sounds as before.`);
    });
  }

  /** Brings the selected notes, or the whole part, back to the take. */
  toTake(which: TakeParts): void {
    const part = this.treating.part();
    const song = this.treating.song();
    if (!part || !song) return;
    const edit = returnEdit(song, part.id, this.count() > 0 ? this.ids() : null, which);
    if (edit) this.changes.make(edit, 'take');
    else this.said.say('These notes are already as in the take.');
  }

  /** The notes of a track's parts that are selected, part by part. */
  private byPart(): { readonly part: Part; readonly notes: readonly Note[] }[] {
    const parts = this.treating.track()?.parts ?? [];
    return parts.flatMap((part) => {
      const notes = notesAt(part.notes, this.ids()).map((i) => part.notes[i]);
      return notes.length > 0 ? [{ part, notes }] : [];
    });
  }

  private except(name: string, exception: (taken: Taken) => Exception | undefined, goes?: Goes): void {
    const [song, track] = [this.treating.song(), this.treating.track()];
    if (!song || !track) return;
    const taken = takeUp(song, track, this.ids(), 'corrected');
    if (taken.length === 0) return;
    const full = `${name}: ${counted(taken.length, 'note')}`;
    const edits = this.byPart().flatMap(({ part }) => {
      const changed = taken.filter((t) => t.part === part).map((t) => changedNote(t.note, { exception: exception(t) }));
      return partEdits(full, track, part, { changed });
    });
    this.changes.make({ kind: 'several', name: full, edits }, 'command', goes);
  }

  /** Gives the selected notes of each part settings of their own. @param opens whether those of the current part open */
  private giveSets(name: string, treatmentOf: (part: Part) => Treatment, opens = false): void {
    const track = this.treating.track();
    const parts = this.byPart();
    if (!track || parts.length === 0) return;
    const full = `${name}: ${counted(this.count(), 'note')}`;
    const here = this.treating.part()?.id;
    let goes: Goes = {};
    const edits = parts.flatMap(({ part, notes }) => {
      const treatment = treatmentOf(part);
      const same = opens ? undefined : part.sets.find((s) => JSON.stringify(s.treatment) === JSON.stringify(treatment));
      const set = same ?? newSet(part, treatment);
      if (opens && part.id === here) goes = { set: set.id };
      const changed = notes.map((n) => changedNote(n, { exception: { kind: 'own', set: set.id } }));
      return partEdits(full, track, part, { changed, sets: same ? part.sets : [...part.sets, set] });
    });
    this.changes.make({ kind: 'several', name: full, edits }, 'command', goes);
  }
}

function newSet(part: Part, treatment: Treatment): OwnSet {
  const used = new Set(part.sets.map((s) => s.id));
  let n = 1;
  while (used.has(`own${n}`)) n++;
  return { id: `own${n}`, name: 'own settings', treatment };
}
