import { inject, Injectable, signal } from '@angular/core';
import { SWING_MAX, SWING_MIN } from '@early-sparrow/core/grid';
import { liftGroove } from '@early-sparrow/core/groove';
import { analysePart, freeChords, measureSwing } from '@early-sparrow/core/insight';
import type { Groove } from '@early-sparrow/core/song';
import { timeOf, toColumns } from '@early-sparrow/core/treatment';
import { Analyst } from './analyst';
import { Selecting } from './selecting';
import { Treating } from './treating';

/**
 * Measures swing and groove from another track, from the selected notes, or from the whole part where fewer than
 * two are selected.
 */
@Injectable()
export class Lifter {
  private readonly treating = inject(Treating);
  private readonly selecting = inject(Selecting);
  private readonly analyst = inject(Analyst);

  /** Id of the track to lift from; null for the one at hand. */
  readonly source = signal<string | null>(null);

  /** Swing as a share of the pair; null where there are too few notes. */
  swing(): number | null {
    const song = this.treating.song();
    const grid = this.grid();
    if (!song || !grid) return null;
    const time = timeOf(song);
    const lag = this.other() ? 0 : (this.analyst.analysis()?.lag?.ms ?? 0);
    const found = measureSwing(freeChords(toColumns(this.notes()), time), grid, lag, time);
    if (!found) return null;
    return Math.min(SWING_MAX, Math.max(SWING_MIN, Math.round(found.share * 1000) / 1000));
  }

  groove(): Groove | null {
    const song = this.treating.song();
    const grid = this.grid();
    const part = this.treating.part();
    if (!song || !grid || !part) return null;
    const notes = this.notes();
    const source = { start: notes.map((n) => n.start), velocity: notes.map((n) => n.velocity) };
    return liftGroove(source, {
      name: `Lifted from ${this.other()?.name ?? part.name}`.slice(0, 200),
      grid,
      bars: 1,
      time: timeOf(song),
    });
  }

  private notes() {
    const other = this.other();
    if (other) return other.notes;
    const part = this.treating.part();
    const ids = new Set(this.selecting.ids());
    return part?.notes.filter((n) => ids.size < 2 || ids.has(n.id)) ?? [];
  }

  private other() {
    return this.treating.song()?.tracks.find((t) => t.id === this.source())?.parts[0] ?? null;
  }

  /** The lines by which notes are told apart: the suggested swung ones, else those of the treatment. */
  private grid() {
    const swung = this.analyst.analysis()?.fits.find((f) => f.grid.swing !== 0.5);
    const other = this.other();
    const song = this.treating.song();
    // Another track's notes have not been listened to yet; a few thousand take well under a second.
    if (other && song) return analysePart(other, song).fits[0]?.grid;
    const own = this.treating.treatment()?.quantize.grid;
    return own && swung && swung.grid.value === own.value ? swung.grid : own;
  }
}
