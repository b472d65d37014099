import { computed, effect, inject, Injectable, untracked } from '@angular/core';
import { Store } from '@ngrx/store';
import { spanOf, takeUp } from '@early-sparrow/core/shape';
import { meterOf, partsOf, tempoOf, type Song } from '@early-sparrow/core/song';
import { Player, type Span } from '../../sound/player';
import { deskFeature } from '../../state/desk.feature';
import { Selecting } from '../hand/selecting';
import { Treating } from '../hand/treating';
import { Viewport } from '../kit/viewport';

/** The loop: switched on, it is the range that was drawn, else the selection, else the bars in view. */
@Injectable()
export class Looping {
  private readonly player = inject(Player);
  private readonly treating = inject(Treating);
  private readonly selecting = inject(Selecting);
  private readonly view = inject(Viewport);
  private readonly song = inject(Store).selectSignal(deskFeature.selectSong);

  constructor() {
    // Where a tempo was fitted, and every note sounds where it did, so do the loop and the playhead.
    let before: Song | null = null;
    effect(() => {
      const song = this.song();
      const was = before;
      before = song;
      if (song && was) untracked(() => this.follow(was, song));
    });
  }

  private follow(was: Song, song: Song): void {
    const [from, to] = [tempoOf(was), tempoOf(song)];
    if (from === to || !keepsSeconds(was, song)) return;
    const at = (tick: number) => Math.max(0, Math.round(to.toTick(from.toMs(tick))));
    const loop = this.player.loop();
    if (loop.to > loop.from) this.player.loop.set({ from: at(loop.from), to: at(loop.to) });
    if (!this.player.playing()) this.player.position.set(at(this.player.position()));
  }

  /** The range in words: `bars 3–6` where it is whole bars, else from one beat to another. */
  readonly text = computed(() => {
    const { from, to } = this.player.loop();
    const song = this.song();
    if (!song || to <= from) return '';
    const meter = meterOf(song);
    const whole = [from, to].every((tick) => meter.barStartAt(tick) === tick);
    const first = meter.toBarBeat(from);
    const end = meter.toBarBeat(to);
    if (!whole) return `${first.bar}.${first.beat}–${end.bar}.${end.beat}`;
    return first.bar === end.bar - 1 ? `bar ${first.bar}` : `bars ${first.bar}–${end.bar - 1}`;
  });

  toggle(): void {
    const on = !this.player.loopOn();
    if (on && this.player.loop().to <= this.player.loop().from) {
      const range = this.selection() ?? this.barsInView();
      if (!range) return;
      this.player.loop.set(range);
    }
    this.player.loopOn.set(on);
  }

  /** Goes round what is selected. */
  overSelection(): void {
    const range = this.selection() ?? this.selectedSpan();
    if (!range) return;
    this.player.loop.set(range);
    this.player.loopOn.set(true);
  }

  /** Puts one end of the loop at the playhead; the other one stays, or is a bar away. */
  edge(which: 'from' | 'to'): void {
    const song = this.song();
    if (!song) return;
    const at = Math.round(this.player.position());
    const meter = meterOf(song);
    const { barTicks } = meter.pieceAt(at);
    const { from, to } = this.player.loop();
    if (which === 'from') this.player.loop.set({ from: at, to: to > at ? to : at + barTicks });
    else if (at > 0) this.player.loop.set({ from: from < at ? from : Math.max(0, at - barTicks), to: at });
    this.player.loopOn.set(true);
  }

  /** Moves the loop by bars; it does not go before the song's start. */
  move(bars: number): void {
    const song = this.song();
    const { from, to } = this.player.loop();
    if (!song || to <= from) return;
    const by = Math.max(-from, bars * meterOf(song).pieceAt(from).barTicks);
    this.player.loop.set({ from: from + by, to: to + by });
  }

  /** From the beat of the first selected note to the beat after the last one's end; null with fewer than two. */
  private selection(): Span | null {
    const song = this.treating.song();
    const part = this.treating.part();
    const range = this.selecting.count() > 1 ? this.selectedSpan() : null;
    if (!song || !part || !range) return null;
    const meter = meterOf(song);
    const beat = (tick: number, round: (n: number) => number) => {
      const { tick: start, beatTicks } = meter.pieceAt(tick);
      return start + round((tick - start) / beatTicks) * beatTicks;
    };
    // A note that was played a hair before its beat belongs to the beat.
    return { from: Math.max(0, beat(range.from, Math.round)), to: beat(range.to, Math.ceil) };
  }

  /** Where the selected notes are, in ticks; null for none. */
  selectedSpan(): Span | null {
    const song = this.treating.song();
    const track = this.treating.track();
    return song && track ? spanOf(takeUp(song, track, this.selecting.ids(), 'corrected')) : null;
  }

  /** The bars of which at least half is in view; at least one. */
  private barsInView(): Span | null {
    const song = this.song();
    if (!song) return null;
    const meter = meterOf(song);
    const left = Math.max(0, this.view.left());
    const right = Math.min(this.view.right(), this.view.end());
    let from = meter.barStartAt(left);
    if (left - from > (meter.nextBarStart(from) - from) / 2) from = meter.nextBarStart(from);
    let to = meter.barStartAt(Math.max(from, right));
    if (right - to > (meter.nextBarStart(to) - to) / 2 || to <= from) to = meter.nextBarStart(to);
    return { from, to };
  }
}

/** Whether the parts that both songs have sound where they did, though they lie at other ticks. */
function keepsSeconds(was: Song, song: Song): boolean {
  const starts = new Map([...partsOf(was)].map(({ part }) => [part.id, part.end]));
  const [from, to] = [tempoOf(was), tempoOf(song)];
  let moved = false;
  for (const { part } of partsOf(song)) {
    const end = starts.get(part.id);
    if (end === undefined) continue;
    if (Math.abs(from.toMs(end) - to.toMs(part.end)) > 2) return false;
    moved ||= end !== part.end;
  }
  return moved || was.ppq !== song.ppq;
}
