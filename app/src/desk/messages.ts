import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { formatGrid } from '@early-sparrow/core/grid';
import { noteBeforePart } from '@early-sparrow/core/insight';
import { mergedChords, treatPart } from '@early-sparrow/core/treatment';
import { minLength } from '../common/notes';
import { DeskActions } from '../state/desk.feature';
import { Analyst } from './analyst';
import { Selecting } from './selecting';
import { Treating } from './treating';

interface Message {
  readonly key: string;
  readonly text: string;
  /** Notes that it is about, by id. */
  readonly ids: readonly number[];
  /** The way out, in words, and what it does. */
  readonly way: string | null;
  readonly act: (() => void) | null;
}

/** A thin strip that warns of the known mistakes, shows the notes and offers the way out. */
@Component({
  selector: 'es-messages',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (message(); as m) {
      <p role="status">
        <span>{{ m.text }}</span>
        @if (m.ids.length > 0) {
          <button class="word" (click)="selecting.select(m.ids)">Show</button>
        }
        @if (m.way) {
          <button class="word act" (click)="m.act?.()">{{ m.way }}</button>
        }
        @if (rest() > 0) {
          <span class="soft">{{ rest() === 1 ? 'one more' : rest() + ' more' }}</span>
        }
        <button class="word" (click)="dismiss(m.key)">Hide</button>
      </p>
    }
  `,
  styles: `
    :host {
      position: absolute;
      left: 72px;
      right: 12px;
      top: 32px;
      z-index: 5;
      display: flex;
      justify-content: center;
      pointer-events: none;
    }
    p {
      pointer-events: auto;
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 2px 8px;
      margin: 0;
      padding: 3px 6px 3px 12px;
      border: 1px solid var(--line);
      border-left: 3px solid var(--action);
      border-radius: 6px;
      background: var(--paper);
      font-size: 14px;
    }
    .act {
      color: var(--action);
      font-weight: 600;
    }
    .soft {
      color: var(--soft);
    }
  `,
})
export class Messages {
  private readonly store = inject(Store);
  private readonly treating = inject(Treating);
  private readonly analyst = inject(Analyst);
  protected readonly selecting = inject(Selecting);
  private readonly hidden = signal<readonly string[]>([]);

  private readonly all = computed(() =>
    [this.before(), this.merges(), this.doubles(), this.triplets(), this.short(), this.running()].filter(
      (m): m is Message => m !== null && !this.hidden().includes(m.key),
    ),
  );
  protected readonly message = computed(() => this.all()[0] ?? null);
  protected readonly rest = computed(() => this.all().length - 1);

  protected dismiss(key: string): void {
    this.hidden.update((keys) => [...keys, key]);
  }

  /** The first note of a take, a hair before its part, would be cut off there. */
  private before(): Message | null {
    const part = this.treating.part();
    const song = this.treating.song();
    const found = part && song ? noteBeforePart(part, song) : null;
    if (!part || !song || !found) return null;
    const treated = treatPart(part, song);
    if (treated.start[0] >= part.start) return null;
    const first = part.notes[0];
    const edit = {
      kind: 'notes',
      name: `Move the first note into ${part.name}`,
      part: part.id,
      remove: [first.id],
      add: [
        { ...first, exception: { kind: 'pinned', start: part.start, length: first.length, velocity: first.velocity } },
      ],
    } as const;
    return {
      key: `before.${part.id}`,
      text: `First note ${found.ms.toFixed(0)} ms before its bar: a loop would cut it off.`,
      ids: [found.id],
      way: 'Move it to the bar',
      act: () => this.store.dispatch(DeskActions.edit({ edit })),
    };
  }

  private merges(): Message | null {
    const part = this.treating.part();
    const song = this.treating.song();
    if (!part?.on || !song) return null;
    const { groups } = treatPart(part, song);
    const group = groups.find((g) => g.set === (this.treating.set()?.id ?? null));
    if (!group?.treatment.quantize.on) return null;
    const merged = mergedChords(group);
    if (merged.length === 0) return null;
    const ids = merged.map(
      (c) => part.notes[group.members ? group.members[group.chords.first[c]] : group.chords.first[c]].id,
    );
    const { grid } = group.treatment.quantize;
    const fits = this.analyst.analysis()?.fits.find((f) => f.merges < merged.length && f.text !== formatGrid(grid));
    const better = fits?.grid ?? null;
    return {
      key: `merge.${part.id}.${formatGrid(grid)}`,
      text: `${merged.length === 1 ? 'One chord merges' : `${merged.length} chords merge`} with the one before on ${formatGrid(grid)}.`,
      ids,
      way: better && `Try ${fits?.text}`,
      act: better && (() => this.treating.commit(`Quantize to ${fits?.text}`, { quantize: { grid: better } })),
    };
  }

  private doubles(): Message | null {
    const report = this.treating.report();
    const part = this.treating.part();
    if (!report || !part || report.doubles === 0 || part.treatment.settle.dropDoubles) return null;
    return {
      key: `double.${part.id}`,
      text: `${report.doubles === 1 ? 'One note comes' : `${report.doubles} notes come`} to start with another of the same pitch.`,
      ids: [],
      way: 'Drop the softer',
      act: () => this.treating.commit('Drop doubles', { settle: { dropDoubles: true } }),
    };
  }

  /** Triplets under a straight grid, or any grid that fits much worse than another. */
  private triplets(): Message | null {
    const analysis = this.analyst.analysis();
    const t = this.treating.treatment();
    if (!analysis?.sure || !t?.quantize.on || t.quantize.groove) return null;
    const own = analysis.fits.find((f) => f.text === formatGrid({ ...t.quantize.grid, swing: t.quantize.grid.swing }));
    const best = analysis.fits[0];
    const sameKind = best.grid.value === t.quantize.grid.value && best.grid.shape === t.quantize.grid.shape;
    if (sameKind || (own && (best.bits - own.bits) * analysis.chords < 60)) return null;
    const triplet = typeof best.grid.shape !== 'string' || best.grid.mix !== null;
    const finer = own && own.merges === 0 && own.missMs > best.missMs + 2;
    const why = triplet
      ? 'The playing has triplets'
      : finer
        ? 'The lines are finer than the playing'
        : 'Other lines fit better';
    return {
      key: `fit.${formatGrid(t.quantize.grid)}`,
      text: `${why}: ${best.text} leaves a typical miss of ${best.missMs.toFixed(1)} ms.`,
      ids: [],
      way: `Try ${best.text}`,
      act: () => this.treating.commit(`Quantize to ${best.text}`, { quantize: { grid: best.grid } }),
    };
  }

  private short(): Message | null {
    const part = this.treating.part();
    const song = this.treating.song();
    if (!part?.on || !song) return null;
    const { start, end, columns } = treatPart(part, song);
    const limit = minLength(song.ppq);
    const ids = part.notes.flatMap((n, i) => {
      const played = columns.end[i] - columns.start[i];
      return end[i] - start[i] < Math.min(limit, played / 2) ? [n.id] : [];
    });
    if (ids.length === 0) return null;
    return {
      key: `short.${part.id}`,
      text: `${ids.length === 1 ? 'One note becomes' : `${ids.length} notes become`} very short.`,
      ids,
      way: 'Keep lengths',
      act: () => this.treating.commit('Keep lengths', { lengths: { on: false } }),
    };
  }

  /** Offsets that run away mean a tempo that does not fit, or a player who drifts. */
  private running(): Message | null {
    const analysis = this.analyst.analysis();
    const t = this.treating.treatment();
    if (!analysis?.lag?.drifting || !t?.quantize.on || t.quantize.lines === 'follow') return null;
    return {
      key: 'drift',
      text: 'The player’s time wanders against the bars; nearest lines may be the wrong ones.',
      ids: [],
      way: 'Follow the player',
      act: () => this.treating.commit('Follow the player', { quantize: { lines: 'follow' } }),
    };
  }
}
