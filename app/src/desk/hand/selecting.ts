import { computed, inject, Injectable, type Signal } from '@angular/core';
import { Store } from '@ngrx/store';
import {
  changeNotes,
  keepEdit,
  returnEdit,
  type Edit,
  type EditProblem,
  type SimpleEdit,
} from '@early-sparrow/core/edit';
import { formatGrid } from '@early-sparrow/core/grid';
import {
  changedNote,
  notesAt,
  takeOf,
  type Exception,
  type Note,
  type OwnSet,
  type Part,
  type TakeParts,
  type Treatment,
} from '@early-sparrow/core/song';
import { treatPart } from '@early-sparrow/core/treatment';
import { counted } from '../../common/format';
import { Said } from '../../common/said';
import { Changes } from '../../state/changes';
import { DeskActions, deskFeature, type Compare, type Goes } from '../../state/desk.feature';
import { pictureOf } from './picture';
import { Following } from './following';
import { Treating } from './treating';

/** Some notes that belong together: an exception's, or all that were left as played or pinned. */
export interface Chip {
  readonly key: string;
  readonly text: string;
  readonly setId: string | null;
  readonly ids: readonly number[];
}

/** How far notes are moved by hand. */
export interface Move {
  readonly ticks: number;
  /** Rows of the roll, up is positive. */
  readonly rows: number;
  /** Pitches of the rows, ascending. */
  readonly pitches: readonly number[];
  /** The side on which the notes were seen and taken. */
  readonly from: Compare;
}

/** The selected notes of the part at hand, and what can be done with them. */
@Injectable()
export class Selecting {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly treating = inject(Treating);
  private readonly said = inject(Said);
  private readonly following = inject(Following, { optional: true });
  readonly ids = this.store.selectSignal(deskFeature.selectSelection);
  /** The part whose other versions Keep asked about. */
  private asked: string | null = null;
  readonly chosen: Signal<ReadonlySet<number>> = computed(() => new Set(this.ids()));
  readonly count = computed(() => this.ids().length);

  /** A chip for each kind of exception in the part, called what it is. */
  readonly chips = computed((): Chip[] => {
    const part = this.treating.part();
    if (!part) return [];
    const of = (belongs: (e: Exception) => boolean) =>
      part.notes.filter((n) => n.exception && belongs(n.exception)).map((n) => n.id);
    const own = part.sets.map((set): Chip => {
      const ids = of((e) => e.kind === 'own' && e.set === set.id);
      const which = part.sets.length > 1 ? `: ${formatGrid(set.treatment.quantize.grid)}` : '';
      return { key: set.id, setId: set.id, ids, text: `${ids.length} with own settings${which}` };
    });
    const plain = (
      [
        ['as-played', 'as played'],
        ['pinned', 'pinned'],
        ['dropped', 'muted doubles'],
      ] as const
    ).map(([kind, name]): Chip => {
      const ids = of((e) => e.kind === kind);
      return { key: kind, setId: null, ids, text: `${ids.length} ${name}` };
    });
    return [...own, ...plain].filter((c) => c.ids.length > 0);
  });

  select(ids: readonly number[]): void {
    this.store.dispatch(DeskActions.selectNotes({ ids }));
  }

  all(): void {
    this.select(this.treating.part()?.notes.map((n) => n.id) ?? []);
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

  choose(chip: Chip): void {
    this.select(chip.ids);
    this.store.dispatch(DeskActions.selectSet({ setId: chip.setId }));
  }

  wholePart(): void {
    this.store.dispatch(DeskActions.selectSet({ setId: null }));
  }

  /** Gives the selected notes settings of their own, those of the part to begin with, and opens them. */
  ownSettings(): void {
    const part = this.treating.part();
    const notes = this.notes();
    if (!part || notes.length === 0) return;
    const set = newSet(part, part.treatment);
    this.giveSet('Own settings', part, notes, set, { set: set.id });
  }

  asPlayed(): void {
    this.except('Leave as played', () => ({ kind: 'as-played' }));
  }

  /** Fixes the selected notes where they are now. */
  pin(): void {
    const place = this.places('corrected');
    this.except('Pin', (_, i) => ({ kind: 'pinned', ...place(i) }));
  }

  /** Gives the selected notes back to the part's treatment. */
  release(): void {
    this.except('Put back into the treatment', () => undefined, { set: null });
  }

  /** Quantizes the selected notes alone, to the grid that the part has now: own settings at the given strength. */
  quantize(strength: number): void {
    const part = this.treating.part();
    const notes = this.notes();
    if (!part || notes.length === 0) return;
    const name = strength === 1 ? 'Quantize' : 'Quantize half-way';
    const quantize = { ...part.treatment.quantize, on: true, starts: true, strength };
    if (notes.length === part.notes.length) {
      // All of them is the part: an exception for everything would leave the part's own settings without a note.
      this.treating.commit(name, { quantize: { on: true, starts: true, strength } });
      return;
    }
    const treatment = { ...part.treatment, quantize };
    const same = part.sets.find((s) => JSON.stringify(s.treatment) === JSON.stringify(treatment));
    this.giveSet(name, part, notes, same ?? newSet(part, treatment));
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
    if (others > 0 && this.asked !== part.id) {
      this.asked = part.id;
      const them = others === 1 ? 'another version of its treatment' : `${others} other versions of its treatment`;
      this.said.say(
        `This part has ${them}, made for the notes as played. Press Keep again to keep this one and drop them.`,
      );
      return;
    }
    this.asked = null;
    // All of them is the part: its stages go off with it, and no note is left an exception.
    const some = this.count() > 0 && this.count() < part.notes.length;
    const edit = keepEdit(song, part.id, some ? this.ids() : null);
    if (!edit) this.said.say('The treatment of this part is off, so there is nothing to keep.');
    else if (!this.changes.make(edit, 'keep')) this.said.say(`${edit.name}. It sounds as before.`);
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

  /** Takes the selected notes away. */
  erase(): void {
    const part = this.treating.part();
    const notes = this.notes();
    if (!part || notes.length === 0) return;
    const remove = notes.map((n) => n.id);
    const what = counted(notes.length, part.audio ? 'hit' : 'note');
    const name = `Erase ${what}`;
    const edit: SimpleEdit = { kind: 'notes', name, part: part.id, remove, add: [] };
    const edits = this.withSets({ ...part, notes: without(part, remove) }, [edit], [], part.sets);
    if (!this.dispatch(name, edits, { selection: [] })) this.said.say(`Erased ${what}.`);
  }

  /** Moves notes by hand, in time and pitch. @param how `nudge` for one step with such a move just before */
  move(ids: readonly number[], move: Move, how: 'drag' | 'nudge' = 'drag'): void {
    const edit = this.moveEdit(ids, move);
    if (!edit) return;
    if (this.changes.make(edit, how)) return;
    if (move.from === 'played' && move.ticks !== 0) {
      // What was played stays what it was; the note is where it was dropped on the other side.
      this.store.dispatch(DeskActions.compare({ which: 'corrected' }));
      this.said.say('The take is unchanged. The moved note shows under Corrected.');
    }
  }

  /**
   * The edit of such a move, for showing it too. Under a treatment a note that moves in time is pinned where it
   * was dropped; without one its own place moves. Pitch alone pins nothing.
   */
  moveEdit(ids: readonly number[], { ticks, rows, pitches, from }: Move): Edit | null {
    const part = this.treating.part();
    if (!part || ids.length === 0 || (ticks === 0 && rows === 0)) return null;
    const place = this.places(from);
    const group = notesAt(part.notes, ids);
    // The group moves as one: at the song's start, or the last row, all of it stops.
    const by = group.reduce((most, i) => Math.max(most, -place(i).start), ticks);
    const up = roomInRows(part, group, rows, pitches);
    if (Math.round(by) === 0 && up === 0) return null;
    const moved = group.map((i): Note => {
      const old = part.notes[i];
      const pitch = up === 0 ? old.pitch : otherPitch(old.pitch, up, pitches);
      if (ticks === 0) return changedNote(old, { pitch });
      const { start: before, length, velocity } = place(i);
      const start = Math.round(before + by);
      if (part.on) return changedNote(old, { pitch, exception: { kind: 'pinned', start, length, velocity } });
      return changedNote(old, { pitch, start, length, velocity, take: takeOf(old), order: undefined });
    });
    const name = `${ticks === 0 ? 'Change the pitch of' : 'Move'} ${counted(moved.length, 'note')}`;
    return { kind: 'several', name, edits: this.withSets(part, [changeNotes(name, part, moved)], moved, part.sets) };
  }

  private notes(): Note[] {
    const notes = this.treating.part()?.notes ?? [];
    return notesAt(notes, this.ids()).map((i) => notes[i]);
  }

  /** Where notes are on one of the two sides. */
  private places(side: Compare): (index: number) => { start: number; length: number; velocity: number } {
    const part = this.treating.part();
    const song = this.treating.song();
    if (!part || !song) throw new Error('Nothing is open.');
    if (side === 'played') return (i) => takeOf(part.notes[i]);
    const { start, end, velocity } = treatPart(part, song);
    return (i) => ({ start: start[i], length: end[i] - start[i], velocity: velocity[i] });
  }

  private except(name: string, exception: (note: Note, index: number) => Exception | undefined, goes?: Goes): void {
    const part = this.treating.part();
    if (!part || this.count() === 0) return;
    const changed = notesAt(part.notes, this.ids()).map((i) =>
      changedNote(part.notes[i], { exception: exception(part.notes[i], i) }),
    );
    this.dispatch(
      `${name}: ${counted(changed.length, 'note')}`,
      this.withSets(part, [changeNotes(name, part, changed)], changed, part.sets),
      goes,
    );
  }

  private giveSet(name: string, part: Part, notes: readonly Note[], set: OwnSet, goes?: Goes): void {
    const sets = part.sets.includes(set) ? part.sets : [...part.sets, set];
    const changed = notes.map((n) => changedNote(n, { exception: { kind: 'own', set: set.id } }));
    const edits = [changeNotes(name, part, changed)];
    this.dispatch(`${name}: ${counted(notes.length, 'note')}`, this.withSets(part, edits, changed, sets), goes);
  }

  /** Own settings without a note any more go with the change that emptied them. */
  private withSets(
    part: Part,
    edits: readonly SimpleEdit[],
    changed: readonly Note[],
    sets: readonly OwnSet[],
  ): SimpleEdit[] {
    if (sets.length === 0 && part.sets.length === 0) return [...edits];
    const now = new Map(changed.map((n) => [n.id, n]));
    const used = new Set(
      part.notes.map((n) => {
        const { exception } = now.get(n.id) ?? n;
        return exception?.kind === 'own' ? exception.set : null;
      }),
    );
    const left = sets.filter((s) => used.has(s.id));
    const same = left.length === part.sets.length && left.every((s, i) => s === part.sets[i]);
    return same ? [...edits] : [{ kind: 'sets', name: edits[0].name, part: part.id, sets: left }, ...edits];
  }

  private dispatch(name: string, edits: SimpleEdit[], goes?: Goes): EditProblem | null {
    return this.changes.make({ kind: 'several', name, edits }, 'command', goes);
  }
}

function without(part: Part, ids: readonly number[]): Note[] {
  const gone = new Set(ids);
  return part.notes.filter((n) => !gone.has(n.id));
}

function newSet(part: Part, treatment: Treatment): OwnSet {
  const used = new Set(part.sets.map((s) => s.id));
  let n = 1;
  while (used.has(`own${n}`)) n++;
  return { id: `own${n}`, name: 'own settings', treatment };
}

/** As many of some rows as every note of a group has room for. */
function roomInRows(part: Part, group: readonly number[], rows: number, pitches: readonly number[]): number {
  if (rows === 0) return 0;
  const used = new Set(group.map((i) => part.notes[i].pitch));
  let left = rows;
  for (const pitch of used) {
    const row = pitches.indexOf(pitch);
    const [at, most] = row < 0 ? [pitch, 127] : [row, pitches.length - 1];
    left = Math.min(most - at, Math.max(-at, left));
  }
  return left;
}

/** The pitch so many rows higher; where rows are drums, the next one that is played. */
function otherPitch(pitch: number, rows: number, pitches: readonly number[]): number {
  const row = pitches.indexOf(pitch);
  if (row < 0) return Math.min(127, Math.max(0, pitch + rows));
  return pitches[Math.min(pitches.length - 1, Math.max(0, row + rows))];
}
