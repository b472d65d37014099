import { inject, Injectable } from '@angular/core';
import type { Move } from '@early-sparrow/core/shape';
import { tempoOf } from '@early-sparrow/core/song';
import { describeTicks } from '@early-sparrow/core/time';
import { earlyOrLate } from '../../common/format';
import type { Picture } from '../hand/picture';
import { Scenery, type SeenNote } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Shaping } from '../hand/shaping';
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

/**
 * A note in the roll: pressed it is selected, dragged it moves sideways in time and up and down in pitch; with Alt a copy
 * of it does.
 */
@Injectable()
export class NoteGesture implements PointerSource {
  readonly order = ORDER.notes;
  private readonly view = inject(Viewport);
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);
  private readonly shaping = inject(Shaping);
  private readonly treating = inject(Treating);
  private readonly feedback = inject(Feedback);
  private readonly reaching = inject(Reaching);

  under(at: At): Under | null {
    const note = this.scenery.noteUnder(at);
    if (!note) return null;
    return {
      cursor: at.altKey ? 'copy' : 'move',
      note: note.id,
      press: (from) => this.drag(note, from),
      click: (to) => this.click(note, to),
    };
  }

  click(note: SeenNote, { shiftKey, ctrlKey, metaKey }: At): void {
    this.reaching.reach(note, shiftKey || ctrlKey || metaKey);
  }

  /** What a press on a note means: the selection where the note is in it, else the note alone. Its part is taken in hand. */
  pressed(note: SeenNote): readonly number[] {
    this.reaching.touch(note);
    return this.selecting.chosen().has(note.id) ? [...this.selecting.ids()] : [note.id];
  }

  private drag(note: SeenNote, from: At): Gesture {
    const ids = this.pressed(note);
    // The picture changes while the notes are shown on their way: all is told from how it was.
    const seen: Drag = { picture: note.picture, corrected: this.scenery.corrected(), note: note.index };
    let sideways = false;
    const told = (at: At) => {
      const dx = at.offsetX - from.offsetX;
      sideways ||= Math.abs(dx) >= SIDEWAYS_PX;
      const rows = Math.round((from.offsetY - at.offsetY) / this.view.rowHeight());
      return { ticks: sideways ? this.toPlace(seen, dx, at) : 0, rows };
    };
    return from.altKey ? this.copying(ids, seen, told) : this.moving(ids, seen, told);
  }

  /** A drag of notes that moves them as is told for each place of the pointer. */
  moving(ids: readonly number[], seen: Drag, told: (at: At) => Pick<Move, 'ticks' | 'rows'>, inRoll = true): Gesture {
    const side = seen.corrected ? 'corrected' : 'played';
    const moveTo = this.told(seen, told, inRoll);
    return {
      kind: 'note',
      scrolls: inRoll ? 'both' : 'sideways',
      move: (at) => this.shaping.show(this.shaping.moved(ids, moveTo(at), side)),
      drop: (at) => {
        const move = moveTo(at);
        this.treating.endTrying();
        this.shaping.move(ids, move, side);
      },
      cancel: () => this.treating.endTrying(),
    };
  }

  /** A drag of copies of notes; the notes themselves stay. */
  private copying(ids: readonly number[], seen: Drag, told: (at: At) => Pick<Move, 'ticks' | 'rows'>): Gesture {
    const side = seen.corrected ? 'corrected' : 'played';
    const moveTo = this.told(seen, told, true);
    const isThere = ({ ticks, rows }: Move) => ticks !== 0 || rows !== 0;
    const copy = (at: At) => {
      const move = moveTo(at);
      return isThere(move) ? this.shaping.copied(ids, move, side) : null;
    };
    return {
      kind: 'copy',
      scrolls: 'both',
      move: (at) => this.shaping.show(copy(at)?.edit ?? null),
      drop: (at) => {
        const copies = copy(at);
        this.treating.endTrying();
        this.shaping.add(copies, 'copy');
      },
      cancel: () => this.treating.endTrying(),
    };
  }

  private told(seen: Drag, told: (at: At) => Pick<Move, 'ticks' | 'rows'>, inRoll: boolean): (at: At) => Move {
    return (at) => {
      const by = told(at);
      this.feedback.hint.set(this.tell(seen, by));
      if (!seen.corrected && inRoll) this.feedback.box.set(this.ghost(seen, by));
      return { ...by, pitches: this.view.pitches() };
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

  /** How far a note goes, as the time that the ticks last where it was, and where it would lie against its line. */
  private tell({ picture, corrected, note }: Drag, { ticks, rows }: Pick<Move, 'ticks' | 'rows'>): string {
    const song = this.scenery.song();
    const tempo = tempoOf(song);
    const start = (corrected ? picture.now : picture.played)[note];
    const away = describeTicks(Math.abs(ticks), song.ppq, tempo.bpmAt(picture.played[note]));
    const to = Math.max(0, start + ticks);
    const lands = earlyOrLate(tempo.between(picture.lines.nearest(to), to));
    const time = ticks === 0 ? '' : `${away} ${ticks < 0 ? 'earlier' : 'later'} · ${lands}`;
    const count = Math.abs(rows);
    const pitch = rows === 0 ? '' : `${count} ${count === 1 ? 'row' : 'rows'} ${rows < 0 ? 'down' : 'up'}`;
    return [time, pitch].filter(Boolean).join(', ') || 'not moved';
  }

  /** How far a drop sideways moves the notes, in ticks: onto a line that is drawn, where one is near. */
  toPlace({ picture, corrected, note }: Drag, dx: number, at: At): number {
    const start = (corrected ? picture.now : picture.played)[note];
    return this.snapped(picture, start + dx / this.view.scale(), at) - Math.round(start);
  }

  /** A tick as it is, or the line beside it that is near; with Ctrl or ⌘ no line is. */
  snapped({ lines }: Picture, tick: number, { ctrlKey, metaKey }: At): number {
    const wanted = Math.max(0, tick);
    const line = lines.nearest(wanted);
    const snaps = !ctrlKey && !metaKey && Math.abs(line - wanted) * this.view.scale() <= SNAP_PX;
    return Math.round(snaps ? line : wanted);
  }
}
