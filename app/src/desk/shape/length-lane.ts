import { Injectable } from '@angular/core';
import { resize, setLengths, type Shaped } from '@early-sparrow/core/shape';
import { tempoOf } from '@early-sparrow/core/song';
import { describeTicks } from '@early-sparrow/core/time';
import type { Picture } from '../hand/picture';
import type { SeenNote } from '../hand/scenery';
import type { Hand } from '../hand/shaping';
import type { At } from '../kit/pointer';
import { LengthHead } from './lane-heads';
import { StemLane, type ScaleLine } from './stem-lane';

/** The scale goes by doublings from an eighth of a step to sixteen steps. */
const LEAST = -3;
const MOST = 4;

/** How long each note is, in steps of the grid; drawn lengths are whole steps, or with Ctrl or ⌘ any. */
@Injectable()
export class LengthLane extends StemLane {
  readonly id = 'length';
  readonly name = 'Length';
  readonly order = 30;
  readonly head = LengthHead;

  constructor() {
    super();
    this.book.add({ id: this.id, usual: (picture) => Math.min(110, picture * 0.18) });
  }

  protected scale(): readonly ScaleLine[] {
    const all = [-2, -1, 0, 1, 2, 3].map((power) => ({
      at: (power - LEAST) / (MOST - LEAST),
      text: power < 0 ? `1/${2 ** -power}` : String(2 ** power),
    }));
    return this.height() > 100 ? all : all.filter((s) => s.text === '1' || s.text === '4');
  }

  protected played(picture: Picture, index: number): number {
    return this.shareFor(picture, picture.played[index], picture.playedEnd[index]);
  }

  protected now(picture: Picture, index: number): number {
    return this.shareFor(picture, picture.now[index], picture.nowEnd[index]);
  }

  protected dragged({ track, taken }: Hand, note: SeenNote, from: number, to: number, at: At): Shaped {
    const { start, end } = this.scenery.placeOf(note);
    const step = note.picture.lines.gapAt(start);
    const length = this.lengthFor(to, step, at);
    if (from === to) return null;
    const held = taken.find((t) => t.note.id === note.id) ?? null;
    return resize(track, taken, { edge: 'end', by: length - (end - start), held: at.shiftKey ? held : null });
  }

  protected drawn({ track, taken }: Hand, shares: ReadonlyMap<number, number>, at: At): Shaped {
    const { lines } = this.scenery.picture();
    const lengths = new Map<number, number>();
    for (const { note, start } of taken) {
      const share = shares.get(note.id);
      if (share !== undefined) lengths.set(note.id, this.lengthFor(share, lines.gapAt(start), at));
    }
    return setLengths(track, taken, lengths);
  }

  protected tell(share: number, tick: number): string {
    const song = this.scenery.song();
    const step = this.scenery.pictureAt(tick).lines.gapAt(Math.max(0, tick));
    const ticks = Math.round(step * 2 ** (LEAST + share * (MOST - LEAST)));
    return `${describeTicks(ticks, song.ppq, tempoOf(song).bpmAt(Math.max(0, tick)))} long`;
  }

  private shareFor({ lines }: Picture, start: number, end: number): number {
    const steps = Math.max(1e-3, (end - start) / lines.gapAt(Math.max(0, start)));
    return (Math.log2(steps) - LEAST) / (MOST - LEAST);
  }

  /** Whole steps from one on, halves of them below. */
  private lengthFor(share: number, step: number, { ctrlKey, metaKey }: At): number {
    const power = LEAST + share * (MOST - LEAST);
    if (ctrlKey || metaKey) return step * 2 ** power;
    return power < 0 ? step * 2 ** Math.round(power) : step * Math.max(1, Math.round(2 ** power));
  }
}
