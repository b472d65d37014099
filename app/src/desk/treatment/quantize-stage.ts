import type { TypedAmount } from '@early-sparrow/core/time';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { formatGrid, grid, isSwung, stepName, type Grid } from '@early-sparrow/core/grid';
import { BUILT_IN_GROOVES } from '@early-sparrow/core/groove';
import { counted, type GrooveUse, type Limit } from '@early-sparrow/core/song';
import { dependsOn, takesLag } from '@early-sparrow/core/treatment';
import { Amount } from '../controls/amount';
import type { Option } from '../../common/option';
import { Choice } from '../controls/choice';
import { GridPicker } from './grid-picker';
import { Following } from '../hand/following';
import { Lifter } from './lifter';
import { PickOne } from '../../common/pick-one';
import { Selecting } from '../hand/selecting';
import { StageRow } from './stage-row';
import { TimeAmountControl } from '../controls/time-amount';
import { merge, Treating, type Retreat, type TreatmentChange } from '../hand/treating';
import { ValueButton } from './value-button';

type Open = 'grid' | 'more' | null;

const GONE = 'a deleted track';

/** "Put starts on 1/16 lines, 80 % of the way. Leave what is within 6 ms." */
@Component({
  selector: 'es-quantize-stage',
  imports: [StageRow, ValueButton, Amount, TimeAmountControl, GridPicker, Choice, PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './quantize-stage.html',
  styles: `
    /* Room for what the sentence grows by while a slider under it is dragged. */
    :host ::ng-deep .sentence {
      min-height: 63px;
    }
    .field {
      display: grid;
      grid-template-columns: auto 1fr;
      gap: 10px;
      align-items: center;
    }
    .field + .field {
      margin-top: 8px;
    }
    .lift {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 2px 4px;

      es-pick-one {
        flex: 1;
        min-width: 120px;
        color: var(--ink);
      }
    }
    .hint {
      margin: 4px 0 0;
      font-size: 13px;
      color: var(--soft);
    }
    .hint button {
      color: var(--action);
      padding: 2px 4px;
    }
  `,
})
export class QuantizeStage {
  protected readonly treating = inject(Treating);
  protected readonly lifter = inject(Lifter);
  protected readonly following = inject(Following, { optional: true });
  private readonly selecting = inject(Selecting);
  /** What following the player would change, in words; null where it is followed already. */
  protected readonly followHint = computed((): string | null => {
    const { lines } = this.quantize();
    const chords = this.open() === 'more' && lines === 'nearest' ? this.treating.chords() : null;
    if (!chords || !this.following) return null;
    const changes = this.following.changes(chords.place, chords.line, {
      ...this.quantize(),
      reference: this.treating.reference(),
      lagTaken: takesLag(this.treating.treatment()!),
    });
    if (changes === null) return 'Measuring the player’s drift …';
    if (changes === 0) return 'Following would change nothing: the playing is steady enough.';
    return `Following would move ${changes} of ${counted(chords.count, 'chord')} to other lines.`;
  });
  protected readonly open = signal<Open>(null);
  protected readonly liftProblem = signal('');
  protected readonly directions = [
    { value: 'early', text: 'early only' },
    { value: 'both', text: 'both' },
    { value: 'late', text: 'late only' },
  ];
  protected readonly choices = [
    { value: 'nearest', text: 'nearest line' },
    { value: 'follow', text: 'follow the player' },
  ];
  protected readonly times = ['1', '2', '3', '4'].map((value) => ({
    value,
    text: value === '1' ? 'once' : `${value} times`,
  }));

  protected readonly quantize = computed(() => this.treating.treatment()!.quantize);
  protected readonly spread = computed(() => Math.round(this.quantize().spread * 100));
  protected readonly again = computed(() => (this.quantize().times > 1 ? `, ${this.quantize().times} times` : ''));
  protected readonly gridText = computed(() => formatGrid({ ...this.quantize().grid, swing: 0.5 }));
  protected readonly swung = computed(() => isSwung(this.quantize().grid));
  protected readonly percent = computed(() => this.percentOf(this.quantize().strength));
  protected readonly swingPercent = computed(() => Math.round(this.quantize().grid.swing * 1000) / 10);
  /** A groove and a tuplet have lines that swing does not bend. */
  protected readonly canSwing = computed(
    () => !this.quantize().groove && typeof this.quantize().grid.shape === 'string',
  );

  protected readonly grooveName = computed(() => this.quantize().groove?.groove.name ?? '');
  protected readonly grooveValue = computed(() => {
    const { value } = this.quantize().groove?.groove ?? { value: 16 as const };
    return `${stepName({ value, shape: 'straight' })}s`;
  });
  protected readonly grooveOptions = computed((): Option[] => {
    const own = this.grooveName();
    const names = BUILT_IN_GROOVES.map((g) => g.groove.name);
    return [
      { value: '', text: 'None (grid lines)' },
      ...names.map((name) => ({ value: name, text: name })),
      ...(own && !names.includes(own) ? [{ value: own, text: own }] : []),
    ];
  });
  protected readonly grooveAbout = computed(
    () => BUILT_IN_GROOVES.find((g) => g.groove.name === this.grooveName())?.about ?? null,
  );

  /** What notes a swing or groove can be lifted from. */
  protected readonly sources = computed((): Option[] => {
    const here = this.treating.track()?.id;
    const others = (this.treating.song()?.tracks ?? []).filter((t) => t.parts.length > 0 && t.id !== here);
    const own = this.selecting.count() > 1 ? 'the selected notes' : 'these notes';
    return [{ value: '', text: own }, ...others.map((t) => ({ value: t.id, text: t.name }))];
  });
  /** The one chosen, as long as it is there: after a change of tracks it may be the current track itself. */
  protected readonly source = computed(() =>
    this.sources().some((s) => s.value === this.lifter.source()) ? this.lifter.source() : '',
  );

  /** Tracks whose notes the lines may be moved to. */
  protected readonly withOptions = computed((): Option[] => [
    { value: '', text: 'None (grid only)' },
    ...this.sources().slice(1),
    ...(this.withId() && !this.reference() ? [{ value: this.withId(), text: GONE }] : []),
  ]);
  protected readonly withStates = [
    { value: 'corrected', text: 'corrected' },
    { value: 'played', text: 'as played' },
  ];
  protected readonly withId = computed(() => this.quantize().with?.track ?? '');
  private readonly reference = computed(() => {
    const id = this.withId();
    return this.treating.song()?.tracks.find((t) => t.id === id && t.id !== this.treating.track()?.id) ?? null;
  });
  protected readonly withName = computed(() => (this.withId() ? (this.reference()?.name ?? GONE) : null));
  protected readonly withHint = computed((): string => {
    const [song, own, other] = [this.treating.song(), this.treating.track(), this.reference()];
    if (!song || !own || !other) return 'That track was deleted: only the grid’s lines are used.';
    if (this.quantize().with?.as === 'corrected' && dependsOn(other, own, song)) {
      return `${other.name} lines up with these notes in turn, so it is used as played.`;
    }
    return 'Lines move to its notes where one is near, and stay on the grid elsewhere.';
  });

  protected lineUp(track: string): void {
    if (track === this.withId()) return;
    const name = this.treating.song()?.tracks.find((t) => t.id === track)?.name;
    this.set(name ? `Line up with ${name}` : 'Line up with no track', {
      with: track ? { track, as: this.quantize().with?.as ?? 'corrected' } : null,
    });
  }

  /** What the strength means for the typical chord, in ms. */
  protected readonly strengthText = computed(() => {
    const move = this.treating.typicalMove();
    return move > 0 ? `moves ${move.toFixed(1)} ms` : '';
  });
  protected readonly swingText = computed(() => {
    const { swing } = this.quantize().grid;
    const triplet = Math.abs(swing - 2 / 3) < 0.004 ? ' · triplet' : '';
    return `${(swing / (1 - swing)).toFixed(2)} : 1${triplet}`;
  });

  protected percentOf(share: number): number {
    return Math.round(share * 100);
  }

  protected show(which: Open): void {
    this.open.set(this.open() === which ? null : which);
  }

  protected set(name: string, change: TreatmentChange['quantize'], live = false): void {
    // Touching a stage's value switches the stage on: nobody sets what should not be heard.
    const edit = { quantize: { on: true, ...change } };
    if (live) this.treating.try(name, edit);
    else this.treating.commit(name, edit);
  }

  /** A note value or a shape; it leaves a groove, whose lines are its own. */
  protected setGrid(grid: Partial<Grid>): void {
    this.set(`Quantize to ${formatGrid({ ...this.quantize().grid, ...grid })}`, { grid, groove: null });
  }

  /** Swing moves the lines; that alone switches nothing on. */
  protected setSwing(percent: number, live: boolean): void {
    const change = { quantize: { grid: { swing: Math.round(percent * 10) / 1000 } } };
    if (live) this.treating.try('Swing', change);
    else this.treating.commit('Swing', change);
  }

  protected reach({ value, unit }: TypedAmount, live: boolean): void {
    this.set('Reach', { reach: unit === 'percent' && value >= 100 ? null : { value, unit } }, live);
  }

  protected limitText({ value, unit }: Limit): string {
    return unit === 'percent' ? `${value} % of half the gap` : `${value} ${unit}`;
  }

  protected groove(name: string): void {
    const own = this.quantize().groove;
    if (name === own?.groove.name) return;
    const found = BUILT_IN_GROOVES.find((g) => g.groove.name === name)?.groove ?? null;
    this.set(found ? `Groove ${name}` : 'No groove', { groove: found && { groove: found, timing: 1, velocity: 0 } });
  }

  /** Each part keeps its own groove and gets the changed share. */
  protected useGroove(change: Partial<GrooveUse>, live: boolean): void {
    const name = change.timing === undefined ? 'Groove loudness' : 'Groove timing';
    const each: Retreat = (t) => {
      const { groove } = t.quantize;
      return groove && merge(t, { quantize: { on: true, groove: { ...groove, ...change } } });
    };
    if (live) this.treating.tryEach(name, each);
    else this.treating.commitEach(name, each);
  }

  protected async liftSwing(): Promise<void> {
    const lifted = await this.lifter.swing(this.source());
    if (lifted === undefined) return;
    this.liftProblem.set(
      lifted === null ? 'Too few on-beats and off-beats of straight lines to measure a swing. Choose other notes.' : '',
    );
    if (lifted === null) return;
    const name = `Lift swing ${(lifted.swing * 100).toFixed(1)} % of ${formatGrid(grid(lifted.value, lifted.shape))}`;
    this.treating.commitEach(name, (t) => {
      const { value, shape, mix } = t.quantize.grid;
      // A second set of lines belongs to the value that it stood beside.
      const same = value === lifted.value && shape === lifted.shape;
      return merge(t, { quantize: { groove: null, grid: { ...lifted, mix: same ? mix : null } } });
    });
  }

  protected async liftGroove(): Promise<void> {
    const groove = await this.lifter.groove(this.source());
    if (groove === undefined) return;
    this.liftProblem.set(groove === null ? 'There are no notes to measure a groove from.' : '');
    if (groove) this.set(`Lift ${groove.name}`, { groove: { groove, timing: 1, velocity: 0 } });
  }
}
