import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { isProblem, type Edit, type EditProblem } from '@early-sparrow/core/edit';
import { atOnce, type Pieces } from '@early-sparrow/core/maths';
import { meterOf, type Song, type Track } from '@early-sparrow/core/song';
import {
  addNotes,
  copiesOf,
  erase,
  movePieces,
  otherPitch,
  pinsNotes,
  roomFor,
  spanOf,
  spanOfIds,
  takeUp,
  type Added,
  type Move,
  type NewNote,
  type Shaped,
  type Side,
  type Taken,
} from '@early-sparrow/core/shape';
import { counted, countedFirst, pitchName } from '../../common/format';
import { Said } from '../../common/said';
import { unhurried } from '../../common/unhurried';
import { Player } from '../../sound/player';
import { Changes } from '../../state/changes';
import { DeskActions, type Goes } from '../../state/desk.feature';
import type { At, Gesture } from '../kit/pointer';
import { Viewport } from '../kit/viewport';
import { LongSteps } from './long-steps';
import { Selecting } from './selecting';
import { Treating } from './treating';

/** What to do where notes have to be selected first. */
export const NONE_SELECTED = 'No notes are selected. Click one, or drag over some.';

/** What a change of notes is made from. */
export interface Hand {
  readonly song: Song;
  readonly track: Track;
  readonly taken: readonly Taken[];
}

/** Shapes notes of the current track: what is selected, or what a gesture or a verb names. */
@Injectable()
export class Shaping {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly treating = inject(Treating);
  private readonly selecting = inject(Selecting);
  private readonly player = inject(Player);
  private readonly said = inject(Said);
  private readonly view = inject(Viewport);
  private readonly steps = inject(LongSteps);
  /** How loud the note was that was touched last: new ones are as loud. */
  readonly loudness = signal(90);

  /** What was taken up by which ids: in a drag the same notes are asked for at every move. */
  private readonly hands = new WeakMap<readonly number[], Hand & { readonly side: Side }>();

  /** Notes of the track as they are without anything that is being tried; null where no track is open. */
  hand(ids: readonly number[] = this.selecting.ids(), side: Side = this.player.shown()): Hand | null {
    const [song, track] = [this.treating.song(), this.treating.track()];
    if (!song || !track) return null;
    let hand = this.hands.get(ids);
    if (hand?.song !== song || hand.track !== track || hand.side !== side) {
      this.hands.set(ids, (hand = { song, track, side, taken: takeUp(song, track, ids, side) }));
    }
    return hand;
  }

  /** What is selected spans so much, in time and in pitch; null for none. */
  readonly selectedSpan = unhurried(
    () => {
      const [song, part, track] = [this.treating.song(), this.treating.part(), this.treating.track()];
      const [ids, side] = [this.selecting.ids(), this.player.shown()];
      return song && part && track && ids.length > 0 ? { song, part, track, ids, side } : null;
    },
    ({ song, track, ids, side }) => {
      const span = spanOfIds(song, track, ids, side);
      return span && { ...span, pins: span.parts.some(pinsNotes), meter: meterOf(song) };
    },
  );

  /** How many notes are selected and what they span, in words; null for none. */
  readonly selectedWords = computed((): string | null => {
    const span = this.selectedSpan();
    if (!span) return null;
    const [low, high] = [span.pitches[0], span.pitches[span.pitches.length - 1]];
    const place = (tick: number) => {
      const { bar, beat } = span.meter.toBarBeat(Math.max(0, Math.round(tick)));
      return `${bar}.${beat}`;
    };
    const keys = low === high ? pitchName(low) : `${pitchName(low)} to ${pitchName(high)}`;
    return `${countedFirst(span.count, 'note')} selected: ${place(span.from)} to ${place(span.to)}, ${keys}`;
  });

  /** What the treatment does with the selected notes that are moved by hand; empty where it does nothing. */
  readonly pinWords = computed((): string => {
    const span = this.selectedSpan();
    if (!span || (!span.pins && span.pinned === 0)) return '';
    const { count, pinned } = span;
    if (pinned === 0) return 'Under the treatment. What you move or resize by hand is pinned there.';
    if (pinned === count) return 'Pinned by hand: no stage moves ' + (count === 1 ? 'it.' : 'them.');
    return `${pinned} of ${count} are pinned by hand: no stage moves them.`;
  });

  /**
   * Shapes the selected notes: one step for undo.
   * @param how as for {@link Changes.make} @param elsewhere as for {@link make}
   */
  selected(shape: (hand: Hand) => Shaped, how = 'shape', elsewhere = true): boolean {
    const hand = this.hand();
    if (!hand || hand.taken.length === 0) {
      this.said.say(NONE_SELECTED);
      return false;
    }
    const shaped = shape(hand);
    if (shaped === null) this.said.say('These notes are like that already.');
    return this.make(shaped, how, {}, elsewhere);
  }

  /** Shows and sounds what notes would become; a problem is not shown. */
  show(shaped: Shaped): void {
    this.store.dispatch(DeskActions.preview({ edit: shaped && !isProblem(shaped) ? shaped : null }));
  }

  /**
   * Makes a change one step.
   * @param elsewhere whether it cannot be seen on the side as played, since the take stays what it was
   * @returns whether it was made
   */
  make(shaped: Shaped, how: string, goes: Goes = {}, elsewhere = false): boolean {
    return this.made(shaped === null ? undefined : this.changes.make(shaped, how, goes), elsewhere);
  }

  /** @param refused why a change was refused; null where it was made, undefined where there was none to make */
  private made(refused: EditProblem | null | undefined, elsewhere: boolean): boolean {
    if (refused === undefined) this.treating.endTrying();
    if (refused === null && elsewhere && this.player.shown() === 'played') {
      // What was played stays what it was; what was made of it is on the other side.
      this.store.dispatch(DeskActions.compare({ which: 'corrected' }));
      this.said.say('The take is unchanged. The change shows under Corrected.');
    }
    return refused === null;
  }

  /**
   * A drag that shows what it makes of notes while it moves, and makes it one step when it is let go.
   * @param kind of the gesture @param change for a place of the pointer @param how as for {@link make}
   */
  changing(kind: string, change: (at: At) => Shaped, how = kind): Gesture {
    return {
      kind,
      move: (at) => this.show(change(at)),
      drop: (at) => {
        const shaped = change(at);
        this.treating.endTrying();
        this.make(shaped, how, {}, true);
      },
      cancel: () => this.treating.endTrying(),
    };
  }

  /** Takes the selected notes away. @returns whether it did */
  erase(): boolean {
    const hand = this.hand();
    if (!hand || hand.taken.length === 0) return false;
    const what = hand.taken.every(({ part }) => part.audio) ? 'hit' : 'note';
    const edit = erase(hand.track, hand.taken, what) ?? NOTHING;
    if (this.changes.make(edit, 'command', { selection: [] })) return false;
    this.said.say(`Erased ${counted(hand.taken.length, what)}.`);
    return true;
  }

  /** What a move of notes by hand is. */
  moved(ids: readonly number[], by: Move, side: Side): Shaped {
    return atOnce(this.moving(ids, by, side));
  }

  /** Moves notes by hand, in time and pitch. @param how `nudge` for one step with such a move just before */
  move(ids: readonly number[], by: Move, side: Side, how: 'drag' | 'nudge' = 'drag'): void {
    // What was dragged is shown where it was let go: it cannot wait.
    const size = how === 'drag' ? 0 : ids.length;
    this.steps.make(size, this.moving(ids, by, side), how, (refused) => this.made(refused, by.ticks !== 0));
  }

  /** What a move is, in pieces. */
  private *moving(ids: readonly number[], by: Move, side: Side): Pieces<Shaped> {
    const [song, track] = [this.treating.song(), this.treating.track()];
    if (!song || !track) return null;
    return yield* movePieces(song, track, ids, side, by);
  }

  /** What copies of notes are that are put somewhere else. */
  copied(ids: readonly number[], by: Move, side: Side): Added | null {
    const hand = this.hand(ids, side);
    if (!hand) return null;
    const { ticks, rows, pitches } = roomFor(hand.song, hand.track, ids, side, by);
    const copies = copiesOf(hand.track, hand.taken, ticks, (pitch) =>
      rows === 0 ? pitch : otherPitch(pitch, rows, pitches),
    );
    return this.added(copies, `Copy ${counted(copies.length, 'note')}`);
  }

  /** Works out the edit that adds notes to the current track. A problem is shown to the user. */
  added(notes: readonly NewNote[], name?: string): Added | null {
    const hand = this.hand([]);
    const added = hand && addNotes(hand.song, hand.track.id, notes, name);
    if (!added || !isProblem(added)) return added;
    this.said.say(added.problem);
    return null;
  }

  /** Adds notes as one step; they are selected then, and their part becomes the current one. */
  add(added: Added | null, how: string): boolean {
    if (!added) return false;
    if (!this.make(added.edit, how, { selection: added.ids, part: added.part })) return false;
    // What comes in is seen, wherever the picture was.
    const span = spanOf(this.hand(added.ids)?.taken ?? []);
    if (span && (span.from < this.view.left() || span.from > this.view.right())) {
      this.view.scrollTo(span.from - 12 / this.view.scale());
    }
    return true;
  }

  /** The MIDI channel that new notes of the current track get, 0 to 15. */
  channel(): number {
    const track = this.treating.track();
    const first = track?.parts.flatMap((p) => p.notes.slice(0, 1)).at(0);
    return track?.channel ?? first?.channel ?? (track?.voice === 'drums' ? 9 : 0);
  }
}

const NOTHING: Edit = { kind: 'several', name: 'Erase nothing', edits: [] };
