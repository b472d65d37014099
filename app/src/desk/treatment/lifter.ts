import { inject, Injectable, signal } from '@angular/core';
import { SWING_MAX, SWING_MIN, type Grid } from '@early-sparrow/core/grid';
import { liftGroove } from '@early-sparrow/core/groove';
import { freeChords, measureSwing } from '@early-sparrow/core/insight';
import { timeOf, type Groove, type Note } from '@early-sparrow/core/song';
import { toColumns } from '@early-sparrow/core/treatment';
import { Analyst } from '../fits/analyst';
import { Selecting } from '../hand/selecting';
import { Treating } from '../hand/treating';

/** A swing, and the steps that swing so: sixteenths that swing leave eighths where they are. */
export type LiftedSwing = Pick<Grid, 'swing' | 'value' | 'shape'>;

/** What swing and groove are measured by. */
interface Measured {
  readonly name: string;
  readonly notes: readonly Note[];
  readonly grid: Grid | undefined;
  readonly lag: number;
}

/**
 * Measures swing and groove from another track, from the selected notes, or from those that the panel is about. Another
 * track has to be listened to first: undefined where the panel is about something else by then.
 */
@Injectable()
export class Lifter {
  private readonly treating = inject(Treating);
  private readonly selecting = inject(Selecting);
  private readonly analyst = inject(Analyst);

  /** Id of the track that was chosen to lift from; empty for the notes at hand. */
  readonly source = signal('');
  /** Whether another track is being listened to. */
  readonly listening = signal(false);

  /** Swing as a share of the pair, with the steps that it is of; null where there are too few notes on such. */
  async swing(source: string): Promise<LiftedSwing | null | undefined> {
    const measured = await this.measured(source);
    if (!measured) return undefined;
    const { notes, grid, lag } = measured;
    const song = this.treating.song();
    if (!song || !grid || !canSwing(grid)) return null;
    const time = timeOf(song);
    const found = measureSwing(freeChords(toColumns(notes), time), grid, lag, time);
    if (!found) return null;
    const swing = Math.min(SWING_MAX, Math.max(SWING_MIN, Math.round(found.share * 1000) / 1000));
    return { swing, value: grid.value, shape: grid.shape };
  }

  async groove(source: string): Promise<Groove | null | undefined> {
    const measured = await this.measured(source);
    if (!measured) return undefined;
    const { name, notes, grid } = measured;
    const song = this.treating.song();
    if (!song || !grid) return null;
    return liftGroove(
      { start: notes.map((n) => n.start), velocity: notes.map((n) => n.velocity) },
      { name: `Lifted from ${name}`.slice(0, 200), grid, bars: 1, time: timeOf(song) },
    );
  }

  /** The notes with the lines by which they are told apart: the suggested swung ones, else those of the treatment. */
  private async measured(source: string): Promise<Measured | undefined> {
    const other = this.treating
      .song()
      ?.tracks.find((t) => t.id === source)
      ?.parts.find((p) => p.notes.length > 0);
    if (other) {
      const [part, set] = [this.treating.part()?.id, this.treating.set()?.id];
      this.listening.set(true);
      const analysis = await this.analyst.listen(other.notes);
      this.listening.set(false);
      if (this.treating.part()?.id !== part || this.treating.set()?.id !== set) return undefined;
      const [best] = analysis?.fits ?? [];
      return { name: other.name, notes: other.notes, grid: best?.grid, lag: best?.lagMs ?? 0 };
    }
    const ids = new Set(this.selecting.ids());
    const all = this.treating.part()?.notes ?? [];
    const notes = ids.size > 1 ? all.filter((n) => ids.has(n.id)) : (this.treating.subjectNotes() ?? []);
    const analysis = this.analyst.analysis();
    const own = this.treating.treatment()?.quantize.grid;
    const swung = analysis?.fits.find((f) => f.grid.swing !== 0.5);
    // Where the lines are tuplets, the swing is that of what fits.
    const grid = swung && own && (swung.grid.value === own.value || !canSwing(own)) ? swung.grid : own;
    return { name: this.treating.part()?.name ?? '', notes, grid, lag: analysis?.lag?.ms ?? 0 };
  }
}

/** Steps go in pairs, long and short, where they are straight or dotted. */
function canSwing({ shape }: Grid): boolean {
  return typeof shape === 'string';
}
