import { inject, Injectable } from '@angular/core';
import {
  byStep,
  copiesOf,
  cutAtLines,
  fixedLength,
  intoScale,
  joinNotes,
  legato,
  looser,
  onePitch,
  reverse,
  spanOf,
  stretch,
  tighter,
  toNextLine,
  toPartEnd,
  transpose,
  withLines,
  type ScaleName,
} from '@early-sparrow/core/shape';
import type { Lines } from '@early-sparrow/core/grid';
import { timeOf } from '@early-sparrow/core/song';
import { counted } from '../../common/format';
import { Scenery } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Shaping } from '../hand/shaping';

/** What can be done with the selected notes by a command: each is one step for undo. */
@Injectable()
export class Acts {
  private readonly shaping = inject(Shaping);
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);

  /** @param by semitones */
  transpose(by: number): void {
    this.shaping.selected(({ track, taken }) => transpose(track, taken, by), 'nudge pitch', false);
  }

  /** @param root 0 (C) to 11 (B) */
  intoScale(root: number, scale: ScaleName): void {
    this.shaping.selected(({ track, taken }) => intoScale(track, taken, root, scale), 'shape', false);
  }

  /** All on the key of the first note. */
  oneKey(): void {
    this.shaping.selected(({ track, taken }) => onePitch(track, taken, taken[0].note.pitch), 'shape', false);
  }

  stretch(factor: number): void {
    this.shaping.selected(({ track, taken }) => stretch(track, taken, factor));
  }

  reverse(): void {
    this.shaping.selected(({ track, taken }) => reverse(track, taken));
  }

  legato(): void {
    this.shaping.selected(({ song, track, taken }) => legato(track, taken, timeOf(song).tempo));
  }

  /** @param quarters length in quarter notes */
  setLength(quarters: number): void {
    this.shaping.selected(({ song, track, taken }) => fixedLength(track, taken, quarters * song.ppq));
  }

  toNextLine(): void {
    this.shaping.selected(({ track, taken }) => toNextLine(track, taken, this.scenery.linesOf));
  }

  toPartEnd(): void {
    this.shaping.selected(({ track, taken }) => toPartEnd(track, taken));
  }

  byStep(by: 1 | -1): void {
    this.shaping.selected(({ track, taken }) => byStep(track, taken, this.scenery.linesOf, by), 'nudge length');
  }

  cutAtLines(): void {
    this.shaping.selected(({ song, track, taken }) => cutAtLines(song, track, taken, this.scenery.linesOf));
  }

  join(): void {
    this.shaping.selected(({ track, taken }) => joinNotes(track, taken));
  }

  looser(): void {
    this.shaping.selected(({ song, track, taken }) => looser(track, taken, this.scenery.linesOf, timeOf(song).tempo));
  }

  tighter(): void {
    this.shaping.selected(({ track, taken }) => tighter(track, taken, this.scenery.linesOf));
  }

  /** Copies right behind themselves: from a line on, if they began on one. */
  duplicate(): void {
    const hand = this.shaping.hand();
    const span = hand && spanOf(hand.taken);
    if (!hand || !span) {
      this.shaping.selected(() => null);
      return;
    }
    const lines = this.lines();
    const from = lines.nearest(span.from);
    lines.locate(Math.max(0, span.to - 1));
    const by = Math.max(1, Math.round(lines.after - from));
    const copies = withLines(copiesOf(hand.track, hand.taken, by), lines, hand.song.ppq);
    this.shaping.add(this.shaping.added(copies, `Duplicate ${counted(copies.length, 'note')}`), 'duplicate');
  }

  /** Selects all that are not selected, in the current part. */
  invert(): void {
    const has = this.selecting.chosen();
    const notes = this.scenery.part().notes.filter((n) => !has.has(n.id));
    this.selecting.select(notes.map((n) => n.id));
  }

  private lines(): Lines {
    return this.scenery.picture().lines;
  }
}
