import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { placeInBars } from '@early-sparrow/core/beats';
import { counted, tempoOf } from '@early-sparrow/core/song';
import { deskFeature } from '../../state/desk.feature';
import { takingBack } from '../kit/taking-back';
import { Viewport } from '../kit/viewport';
import { Amount } from '../controls/amount';
import { Choice } from '../controls/choice';
import { TempoFitting } from './tempo-fitting';

/** A beat in the strip. */
interface Beat {
  readonly index: number;
  readonly ms: number;
  readonly x: number;
  readonly downbeat: boolean;
  readonly bar: number;
  readonly name: string;
}

/** Beats closer than this on the screen are not all shown, in px. */
const CLOSEST = 11;
/** A pointer that moves less than this presses, in px. */
const MEANT = 3;
/** A step of the arrow keys, in ms; with Shift. */
const STEP_MS = 5;
const WIDE_STEP_MS = 25;

/**
 * The fit of the tempo: the beats that were found as marks over the notes, each to be moved by the pointer or the arrow
 * keys, and what else can be wished.
 */
@Component({
  selector: 'es-tempo-strip',
  imports: [Amount, Choice],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './tempo-strip.html',
  styleUrl: './tempo-strip.scss',
})
export class TempoStrip {
  protected readonly fitting = inject(TempoFitting);
  private readonly view = inject(Viewport);
  private readonly song = inject(Store).selectSignal(deskFeature.selectSong);
  protected readonly bars = ['2', '3', '4', '5', '6'].map((value) => ({ value, text: value }));
  /** A beat under the pointer: where it is dragged to, and from where; a hand that presses is never quite still. */
  private readonly dragged = signal<{ index: number; ms: number; from: number; meant: boolean } | null>(null);

  protected readonly text = computed((): string => {
    const fit = this.fitting.fit();
    if (!fit) return '';
    const { tempo } = fit.fitted;
    const bpms = tempo.map((t) => 60e6 / t.usPerQuarter);
    const [low, high] = [Math.min(...bpms), Math.max(...bpms)];
    const range = tempo.length === 1 ? `${low.toFixed(1)} BPM` : `from ${low.toFixed(0)} to ${high.toFixed(0)} BPM`;
    return `${counted(fit.beats.length, 'beat')} at about ${fit.bpm.toFixed(0)} BPM; ${counted(tempo.length, 'tempo', 'tempi')}, ${range}.`;
  });
  protected readonly readings = computed(() => this.fitting.readings().map((text, i) => ({ value: `${i}`, text })));
  protected readonly changes = computed(() => Math.round(this.fitting.changes() * 100));
  protected readonly steadiness = computed(() => Math.round(this.fitting.steadiness() * 100));
  protected readonly percent = computed(() => Math.round((this.fitting.progress() ?? 0) * 100));

  /** The beats in view. */
  protected readonly beats = computed((): Beat[] => {
    const [fit, song, dragged] = [this.fitting.fit(), this.song(), this.dragged()];
    if (!fit || !song) return [];
    const tempo = tempoOf(song);
    const found: Beat[] = [];
    let last = -Infinity;
    fit.beats.forEach((own, index) => {
      const ms = dragged?.index === index ? dragged.ms : own;
      const x = this.view.x(tempo.toTick(ms));
      const { bar, beat } = placeInBars(fit, index);
      const downbeat = beat === 0;
      if (x < this.view.x(this.view.left()) || x > this.view.width() || (x - last < CLOSEST && !downbeat)) return;
      last = x;
      found.push({
        index,
        ms,
        x,
        downbeat,
        bar,
        name: `Beat ${beat + 1} of bar ${bar}, at ${(ms / 1000).toFixed(2)} s`,
      });
    });
    return found;
  });

  constructor() {
    takingBack(
      inject(DestroyRef),
      () => this.dragged() !== null,
      () => this.letGo(),
    );
  }

  protected grab(event: PointerEvent, { index, ms }: Beat): void {
    if (event.button !== 0) return;
    const mark = event.currentTarget as HTMLElement;
    mark.setPointerCapture(event.pointerId);
    this.dragged.set({ index, ms, from: event.clientX, meant: false });
  }

  protected drag(event: PointerEvent): void {
    const [dragged, song] = [this.dragged(), this.song()];
    if (!dragged || !song) return;
    if (!dragged.meant && Math.abs(event.clientX - dragged.from) < MEANT) return;
    const strip = (event.currentTarget as HTMLElement).parentElement!.getBoundingClientRect();
    const ms = tempoOf(song).toMs(this.view.tick(event.clientX - strip.left));
    this.dragged.set({ ...dragged, ms, meant: true });
  }

  protected drop(): void {
    const dragged = this.dragged();
    this.dragged.set(null);
    if (dragged?.meant) this.fitting.moveBeat(dragged.index, dragged.ms);
  }

  protected letGo(): void {
    this.dragged.set(null);
  }

  protected key(event: KeyboardEvent, { index, ms }: Beat): void {
    const way = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    if (event.key === 'Enter') this.barAt(index, event.shiftKey);
    else if (way !== 0) this.fitting.moveBeat(index, ms + way * (event.shiftKey ? WIDE_STEP_MS : STEP_MS));
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  /** Bar 1 begins with this beat; with Shift a bar does, and those before it stay: after a fermata the count begins anew. */
  protected barAt(index: number, later: boolean): void {
    const fit = this.fitting.fit();
    if (!fit || !later || index <= fit.downbeat) this.firstBar(index);
    else if (fit.anew.includes(index)) this.fitting.adjust({ anew: fit.anew.filter((at) => at !== index) });
    else this.fitting.adjust({ anew: [...fit.anew, index] });
  }

  /** Bar 1 begins with this beat. */
  protected firstBar(index: number): void {
    this.fitting.adjust({ downbeat: index });
  }

  protected nextDownbeat(): void {
    const fit = this.fitting.fit();
    if (!fit) return;
    const at = fit.downbeats.indexOf(fit.downbeat % fit.perBar);
    this.firstBar(fit.downbeats[(at + 1) % fit.downbeats.length]);
  }
}
