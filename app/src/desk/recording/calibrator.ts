import { computed, inject, Injectable, signal } from '@angular/core';
import { calibrate, FEWEST_TAPS, isNoteOn, tapAlong, type Calibration } from '@early-sparrow/core/record';
import { Said } from '../../common/said';
import { Inputs } from '../../input/inputs';
import { PracticeSource } from '../../input/practice-source';
import type { Heard } from '../../input/source';
import { Player } from '../../sound/player';

/** Beats of a calibration at most, and how far apart they are in ms. */
const BEATS = 96;
const APART = 500;
/** The first beat comes so long after the press, in ms. */
const FIRST = 1000;
/** It ends by itself once it is as sure as this, in ms, after so many taps. */
const SURE = 3;
const TAPS = 14;

/** Measures how late the chosen device is: somebody taps along with a click. */
@Injectable()
export class Calibrator {
  private readonly inputs = inject(Inputs);
  private readonly player = inject(Player);
  private readonly said = inject(Said);

  /** While it runs: taps so far; else null. */
  readonly taps = signal<readonly number[] | null>(null);
  /** What they tell so far. */
  readonly soFar = computed(() => calibrate(this.beats, this.taps() ?? []));
  readonly found = signal<Calibration | null>(null);
  private readonly beats = Array.from({ length: BEATS }, (_, k) => FIRST + k * APART);
  /** True while the sound engine wakes; cancelling sets it to false. */
  private waiting = false;
  private stopListening: () => void = () => undefined;

  async start(): Promise<void> {
    if (this.taps() || this.waiting) return;
    this.player.pause();
    const { beats } = this;
    this.found.set(null);
    this.waiting = true;
    const sounds = await this.player.clicks(beats, FIRST + BEATS * APART);
    const wanted = this.waiting;
    this.waiting = false;
    if (!wanted) this.player.stopClicks();
    if (!wanted || !sounds) return;
    const open = this.inputs.open();
    this.inputs.open.set(true);
    this.taps.set([]);
    const tap: Heard = (bytes, at) => {
      const heard = this.player.clickedAt(at);
      if (!isNoteOn(bytes) || heard === null) return;
      this.taps.update((all) => [...(all ?? []), heard]);
      const found = this.soFar();
      if (found && found.taps >= TAPS && found.sure <= SURE) this.finish();
    };
    const unlisten = this.inputs.listen(tap);
    const practised = tapAlong(beats, this.inputs.practice());
    // The practice player taps too, if it is the one that is chosen.
    const player = new PracticeSource(
      () => practised,
      (at) => {
        const ms = this.player.clickedAt(at);
        return ms === null ? null : { ms, round: 0 };
      },
    );
    const unpractise = this.inputs.chosen() === player.id ? player.listen(tap) : () => undefined;
    const timer = setTimeout(() => this.finish(), FIRST + BEATS * APART + APART);
    this.stopListening = () => {
      unlisten();
      unpractise();
      clearTimeout(timer);
      // Letters are commands again, if they were before.
      this.inputs.open.set(open);
    };
  }

  cancel(): void {
    this.waiting = false;
    this.stopListening();
    this.stopListening = () => undefined;
    this.player.stopClicks();
    this.taps.set(null);
  }

  /** Takes what was found into use for the chosen device. */
  use(): void {
    const found = this.found();
    if (!found) return;
    this.inputs.setLatency(Math.round(found.latency * 10) / 10);
    this.found.set(null);
  }

  /** Ends it with what was found so far. */
  finish(): void {
    const taps = this.taps() ?? [];
    const found = this.soFar();
    this.cancel();
    this.found.set(found);
    if (!found) {
      this.said.say(
        `Only ${taps.length} taps landed on the beats; ${FEWEST_TAPS + 2} are needed. Choose your input and tap any key with each click.`,
      );
    }
  }
}
