import { inject, Injectable } from '@angular/core';
import { resize } from '@early-sparrow/core/shape';
import { tempoOf } from '@early-sparrow/core/song';
import { describeTicks } from '@early-sparrow/core/time';
import { Scenery, type SeenNote } from '../hand/scenery';
import { Shaping } from '../hand/shaping';
import { Feedback } from '../kit/feedback';
import { ORDER, type At, type Gesture, type PointerSource, type Under } from '../kit/pointer';
import { Viewport } from '../kit/viewport';
import { NoteGesture } from './note-gesture';

/** An end reaches so far into its note, in px; a third of a short note at most. */
const EDGE_PX = 7;
/** The start takes a little less: notes are moved more often than their starts alone. */
const START_PX = 3;

/** The ends of a note in the roll: dragged, they resize it and what is selected with it; with Shift in proportion. */
@Injectable()
export class EdgeGesture implements PointerSource {
  readonly order = ORDER.notes - 0.5;
  private readonly view = inject(Viewport);
  private readonly scenery = inject(Scenery);
  private readonly shaping = inject(Shaping);
  private readonly feedback = inject(Feedback);
  private readonly notes = inject(NoteGesture);

  under(at: At): Under | null {
    if (at.altKey) return null;
    const note = this.scenery.noteUnder(at);
    const edge = note && this.edgeUnder(note, at.offsetX);
    if (!note || !edge) return null;
    return {
      cursor: 'ew-resize',
      note: note.id,
      press: (from) => this.drag(note, edge, from),
      click: (to) => this.notes.click(note, to),
    };
  }

  private edgeUnder(note: SeenNote, x: number): 'start' | 'end' | null {
    const { start, end } = this.scenery.placeOf(note);
    const [left, right] = [this.view.x(start), this.view.x(end)];
    const third = (right - left) / 3;
    if (x >= right - Math.min(EDGE_PX, third)) return 'end';
    return x < left + Math.min(START_PX, third) ? 'start' : null;
  }

  private drag(note: SeenNote, edge: 'start' | 'end', from: At): Gesture {
    const ids = this.notes.pressed(note);
    const { picture } = note;
    const place = this.scenery.placeOf(note);
    const hand = this.shaping.hand(ids);
    const held = hand?.taken.find((t) => t.note.id === note.id) ?? null;
    const was = edge === 'start' ? place.start : place.end;
    const change = (at: At) => {
      if (!hand) return null;
      const wanted = was + (at.offsetX - from.offsetX) / this.view.scale();
      const by = this.notes.snapped(picture, wanted, at) - Math.round(was);
      const length = Math.max(1, edge === 'start' ? place.end - was - by : was + by - place.start);
      this.feedback.hint.set(this.tell(length, place.start));
      if (by === 0) return null;
      return resize(hand.track, hand.taken, { edge, by, held: at.shiftKey ? held : null });
    };
    return { ...this.shaping.changing('resize', change), scrolls: 'sideways' };
  }

  private tell(length: number, tick: number): string {
    const song = this.scenery.song();
    return `${describeTicks(length, song.ppq, tempoOf(song).bpmAt(tick))} long`;
  }
}
