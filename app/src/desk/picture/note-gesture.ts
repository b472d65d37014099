import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { tempoOf } from '@early-sparrow/core/song';
import { describeTicks } from '@early-sparrow/core/time';
import { DeskActions } from '../../state/desk.feature';
import type { Picture } from '../hand/picture';
import { Scenery } from '../hand/scenery';
import { Selecting, type Move } from '../hand/selecting';
import { Treating } from '../hand/treating';
import { Feedback } from '../kit/feedback';
import { ORDER, type At, type Gesture, type PointerSource, type Under } from '../kit/pointer';
import { Viewport } from '../kit/viewport';
import { Reaching } from './reaching';

/** A note that is dropped this close to a line goes onto it; with Ctrl or ⌘ it does not. */
const SNAP_PX = 7;
/** A note moves in time only once the pointer has gone this far sideways. */
const SIDEWAYS_PX = 4;

/** How a note is dragged: what the pointer means in time and in pitch. */
export interface Drag {
  readonly picture: Picture;
  readonly corrected: boolean;
  /** Index of the note under the pointer. */
  readonly note: number;
}

/** A note in the roll: pressed it is selected, dragged it moves sideways in time and up and down in pitch. */
@Injectable()
export class NoteGesture implements PointerSource {
  readonly order = ORDER.notes;
  private readonly view = inject(Viewport);
  private readonly store = inject(Store);
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);
  private readonly treating = inject(Treating);
  private readonly feedback = inject(Feedback);
  private readonly reaching = inject(Reaching);

  under(at: At): Under | null {
    const note = this.scenery.noteUnder(at);
    if (note < 0) return null;
    return { cursor: 'move', note, press: (from) => this.drag(note, from), click: (to) => this.click(note, to) };
  }

  click(note: number, { shiftKey, ctrlKey, metaKey }: At): void {
    this.reaching.reach(note, shiftKey || ctrlKey || metaKey);
  }

  private drag(note: number, from: At): Gesture {
    // The picture changes while the notes are shown on their way: all is told from how it was.
    const seen: Drag = { picture: this.scenery.picture(), corrected: this.scenery.corrected(), note };
    const { id } = seen.picture.part.notes[note];
    const ids = this.selecting.ids().includes(id) ? [...this.selecting.ids()] : [id];
    let sideways = false;
    return this.moving(ids, seen, (at) => {
      const dx = at.offsetX - from.offsetX;
      sideways ||= Math.abs(dx) >= SIDEWAYS_PX;
      const rows = Math.round((from.offsetY - at.offsetY) / this.view.rowHeight());
      return { ticks: sideways ? this.toPlace(seen, dx, at) : 0, rows };
    });
  }

  /** A drag of notes that moves them as is told for each place of the pointer. */
  moving(ids: readonly number[], seen: Drag, told: (at: At) => Pick<Move, 'ticks' | 'rows'>, inRoll = true): Gesture {
    const { picture, corrected, note } = seen;
    const moveTo = (at: At): Move => {
      const by = told(at);
      const move: Move = { ...by, pitches: this.view.pitches(), from: corrected ? 'corrected' : 'played' };
      this.feedback.hint.set(this.tell(move, picture.played[note]));
      if (!corrected && inRoll) this.feedback.box.set(this.ghost(seen, by));
      return move;
    };
    return {
      kind: 'note',
      move: (at) => this.store.dispatch(DeskActions.preview({ edit: this.selecting.moveEdit(ids, moveTo(at)) })),
      drop: (at) => {
        const move = moveTo(at);
        this.treating.endTrying();
        this.selecting.move(ids, move);
      },
      cancel: () => this.treating.endTrying(),
    };
  }

  /** Where a note of the take is on its way to: the take itself stays, so that its picture does not follow. */
  private ghost({ picture, note }: Drag, { ticks, rows }: Pick<Move, 'ticks' | 'rows'>) {
    const { view } = this;
    const start = picture.played[note];
    const w = Math.max(4, (picture.playedEnd[note] - start) * view.scale());
    const y = view.y(picture.pitch[note]) - rows * view.rowHeight();
    return { x: view.x(start + ticks), y, w, h: view.rowHeight() };
  }

  /** @param tick where the note is: ticks are told as the time that they last there */
  private tell({ ticks, rows }: Move, tick: number): string {
    const song = this.scenery.song();
    const bpm = tempoOf(song).bpmAt(tick);
    const away = describeTicks(Math.abs(ticks), song.ppq, bpm);
    const time = ticks === 0 ? '' : `${away} ${ticks < 0 ? 'earlier' : 'later'}`;
    const count = Math.abs(rows);
    const pitch = rows === 0 ? '' : `${count} ${count === 1 ? 'row' : 'rows'} ${rows < 0 ? 'down' : 'up'}`;
    return [time, pitch].filter(Boolean).join(', ') || 'not moved';
  }

  /** How far a drop sideways moves the notes, in ticks: onto a line that is drawn, where one is near. */
  toPlace({ picture, corrected, note }: Drag, dx: number, at: At): number {
    const start = (corrected ? picture.now : picture.played)[note];
    const wanted = Math.max(0, start + dx / this.view.scale());
    const line = picture.lines.nearest(wanted);
    const snaps = !at.ctrlKey && !at.metaKey && Math.abs(line - wanted) * this.view.scale() <= SNAP_PX;
    return Math.round((snaps ? line : wanted) - start);
  }
}
