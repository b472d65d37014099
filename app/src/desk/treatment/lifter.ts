import { inject, Injectable, signal } from '@angular/core';
import { SWING_MAX, SWING_MIN, type Grid } from '@early-sparrow/core/grid';
import { liftGroove } from '@early-sparrow/core/groove';
import { freeChords, measureSwing } from '@early-sparrow/core/insight';
import { timeOf, type Groove, type Note } from '@early-sparrow/core/song';
import { toColumns } from '@early-sparrow/core/treatment';
import { Analyst } from '../fits/analyst';
import { Selecting } from '../hand/selecting';
import { Treating } from '../hand/treating';

/** Measures swing and groove from another track, from the selected notes, or from those that the panel is about. */
@Injectable()
export class Lifter {
  private readonly treating = inject(Treating);
  private readonly selecting = inject(Selecting);
  private readonly analyst = inject(Analyst);

  /** Id of the track that was chosen to lift from; empty for the notes at hand. */
  readonly source = signal('');

  /** Swing as a share of the pair; null where there are too few notes. */
  async swing(source: string): Promise<number | null> {
    const song = this.treating.song();
    const { notes, grid, lag } = await this.measured(source);
    if (!song || !grid) return null;
    const time = timeOf(song);
    const found = measureSwing(freeChords(toColumns(notes), time), grid, lag, time);
    if (!found) return null;
    return Math.min(SWING_MAX, Math.max(SWING_MIN, Math.round(found.share * 1000) / 1000));
  }

  async groove(source: string): Promise<Groove | null> {
    const song = this.treating.song();
    const { name, notes, grid } = await this.measured(source);
    if (!song || !grid) return null;
    return liftGroove(
      { start: notes.map((n) => n.start), velocity: notes.map((n) => n.velocity) },
      { name: `Lifted from ${name}`.slice(0, 200), grid, bars: 1, time: timeOf(song) },
    );
  }

  /** The notes with the lines by which they are told apart: the suggested swung ones, else those of the treatment. */
  private async measured(
    source: string,
  ): Promise<{ name: string; notes: readonly Note[]; grid: Grid | undefined; lag: number }> {
    const other = this.treating
      .song()
      ?.tracks.find((t) => t.id === source)
      ?.parts.find((p) => p.notes.length > 0);
    if (other) {
      const [best] = (await this.analyst.listen(other.notes))?.fits ?? [];
      return { name: other.name, notes: other.notes, grid: best?.grid, lag: best?.lagMs ?? 0 };
    }
    const ids = new Set(this.selecting.ids());
    const all = this.treating.part()?.notes ?? [];
    const notes = ids.size > 1 ? all.filter((n) => ids.has(n.id)) : (this.treating.subjectNotes() ?? []);
    const analysis = this.analyst.analysis();
    const own = this.treating.treatment()?.quantize.grid;
    const swung = analysis?.fits.find((f) => f.grid.swing !== 0.5);
    const grid = own && swung?.grid.value === own.value ? swung.grid : own;
    return { name: this.treating.part()?.name ?? '', notes, grid, lag: analysis?.lag?.ms ?? 0 };
  }
}
