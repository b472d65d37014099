import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { songLeanPieces } from '@early-sparrow/core/insight';
import type { Edit } from '@early-sparrow/core/edit';
import { unhurriedPieces } from '../../common/unhurried';
import { deskFeature } from '../../state/desk.feature';
import { leanLeft, pictureOf } from '../hand/picture';
import { merge, Treating } from '../hand/treating';

/** Below this many ms a steady lean is not worth a word. */
const LEAST_MS = 5;

/** Steady leans that are worth taking away: of the whole song, and of the current part. */
@Injectable()
export class Leans {
  private readonly treating = inject(Treating);
  private readonly setId = inject(Store).selectSignal(deskFeature.selectSetId);

  /** The lean that most tracks share; told once for the song. */
  readonly song = unhurriedPieces(this.treating.rested, ({ song }) => songLeanPieces(song));
  private readonly left = unhurriedPieces(this.treating.rested, ({ part, song }) => leanLeft(part, song));

  /** The part's own lean that its treatment leaves, in ms; null for none, and where the song is told to lean. */
  readonly part = computed((): number | null => {
    const of = this.treating.rested();
    const leanMs = this.left();
    if (!of?.part.on || leanMs === null || this.setId() !== null) return null;
    const { part, song } = of;
    const { nowMs } = pictureOf(part, song);
    // What the treatment mended is none any more.
    const dealtWith = Math.abs(nowMs) < LEAST_MS || nowMs < 0 !== leanMs < 0;
    if (Math.abs(leanMs) < LEAST_MS || dealtWith || this.song()?.parts.some((p) => p.id === part.id)) return null;
    return leanMs;
  });

  /** Whether the current part does not lean any more under its treatment, though it was played with a lag. */
  isDealtWith(): boolean {
    const song = this.treating.song();
    const part = this.treating.part();
    if (!song || !part?.on || this.setId() !== null || this.treating.parts().length > 1) return false;
    const { quantize } = part.treatment;
    return quantize.on && Math.abs(pictureOf(part, song).nowMs) < LEAST_MS;
  }

  /** Takes the part's lean away, on top of a lag that is taken away already. */
  takeFromPart(): void {
    const ms = this.part();
    const part = this.treating.part();
    if (ms === null || !part) return;
    const { lag } = part.treatment;
    const value = Math.round((ms + (lag.on ? this.treating.inMs(lag.amount) : 0)) * 10) / 10;
    this.treating.commitPart('Lag', { lag: { on: true, amount: { value, unit: 'ms' } } });
  }

  /** The edit that takes the song's lean from all its tracks. */
  songEdit(): Edit | null {
    const song = this.treating.song();
    const lean = this.song();
    if (!song || !lean) return null;
    const name = `Remove ${Math.abs(Math.round(lean.ms))} ms from all tracks`;
    const edits = song.tracks
      .flatMap((t) => t.parts)
      .map((p) => {
        const { lag } = p.treatment;
        const value = Math.round((lean.ms + (lag.on ? this.treating.inMs(lag.amount) : 0)) * 10) / 10;
        const treatment = merge(p.treatment, { lag: { on: value !== 0, amount: { value, unit: 'ms' } } });
        return { kind: 'treatment', name, part: p.id, treatment } as const;
      });
    return { kind: 'several', name, edits };
  }
}
