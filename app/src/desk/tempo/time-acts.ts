import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import * as z from 'zod';
import {
  changeMarker,
  cutBars,
  insertBars,
  moveKey,
  moveMeter,
  moveTempo,
  placeKey,
  placeMarker,
  placeMeter,
  placeRamp,
  placeTempo,
  removeKey,
  removeMarker,
  removeMeter,
  removeTempo,
  shortBars,
  type Edit,
  type EditProblem,
  type Keeping,
} from '@early-sparrow/core/edit';
import { meterOf, tempoOf, type Song } from '@early-sparrow/core/song';
import { kept } from '../../common/kept';
import { Said } from '../../common/said';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';
import type { Mark } from './marks';

const KeepingSchema = z.enum(['bars', 'seconds']);

/** Tempo, meter, key, markers and whole bars: each change is one step for undo. */
@Injectable()
export class TimeActs {
  private readonly changes = inject(Changes);
  private readonly said = inject(Said);
  readonly song = inject(Store).selectSignal(deskFeature.selectSong);
  /** What stays where it is when the tempo changes. */
  readonly keep = kept<Keeping>('tempo.keep', KeepingSchema, 'bars');

  setTempo(at: number, bpm: number): boolean {
    // A key that is held in the field is one step.
    return this.make((song) => placeTempo(song, at, bpm, this.keep()), `nudge tempo ${at}`);
  }

  /** @param bars how long it takes, from the bar or beat at `at` on */
  ramp(at: number, fromBpm: number, toBpm: number, bars: number): boolean {
    return this.make((song) => {
      const to = Number.isFinite(bars) && bars > 0 ? at + bars * meterOf(song).pieceAt(at).barTicks : at;
      return placeRamp(song, { from: at, to, fromBpm, toBpm }, this.keep());
    });
  }

  /** A meter begins with the bar that holds a place. */
  setMeter(at: number, numerator: number, denominator: number): boolean {
    const place = (song: Song) => placeMeter(song, meterOf(song).wholeBar(at).start, numerator, denominator);
    const done = this.make(place, `nudge meter ${at}`);
    if (done) this.tellShortBars();
    return done;
  }

  addMarker(at: number, name: string): boolean {
    return this.make((song) => placeMarker(song, at, name));
  }

  rename(index: number, name: string): boolean {
    return this.make((song) => changeMarker(song, index, { name }));
  }

  setKey(at: number, sharps: number, minor: boolean): boolean {
    return this.make((song) => placeKey(song, { tick: at, sharps, minor }));
  }

  /** Puts a mark elsewhere. What holds from the song's start on stays there. */
  move(mark: Mark, to: number): boolean {
    if (to === mark.at) return true;
    if (this.stays(mark)) {
      this.said.say('The first tempo and meter stay at the song’s start.');
      return false;
    }
    const done = this.make((song) => {
      if (mark.kind === 'tempo') return moveTempo(song, mark.at, to, this.keep());
      if (mark.kind === 'meter') return moveMeter(song, mark.at, meterOf(song).wholeBar(to).start);
      return mark.kind === 'key' ? moveKey(song, mark.at, to) : changeMarker(song, mark.index, { tick: to });
    });
    if (done && mark.kind === 'meter') this.tellShortBars();
    return done;
  }

  /** Whether a mark can be nowhere else: what holds from the song's start on, and what is many. */
  stays(mark: Mark): boolean {
    if (mark.kind === 'tempo') return mark.at === 0 || mark.run !== undefined;
    return mark.kind === 'meter' && mark.at === 0;
  }

  remove(mark: Mark): boolean {
    return this.make((song) => {
      if (mark.kind === 'tempo') return removeTempo(song, mark.at, mark.run?.to ?? mark.at, this.keep());
      if (mark.kind === 'meter') return removeMeter(song, mark.at);
      return mark.kind === 'key' ? removeKey(song, mark.at) : removeMarker(song, mark.index);
    });
  }

  /** @param at a place in the bar in front of which they come, or which is the first to go */
  insertBars(at: number, count: number): boolean {
    return this.make((song) => insertBars(song, meterOf(song).toBarBeat(at).bar, count));
  }

  cutBars(at: number, count: number): boolean {
    return this.make((song) => cutBars(song, meterOf(song).toBarBeat(at).bar, count));
  }

  bpmAt(at: number): number {
    const song = this.song();
    return song ? tempoOf(song).bpmAt(at) : 120;
  }

  /** The nearest beat, or the bar line for what begins bars. */
  nearest(at: number, what: 'beat' | 'bar'): number {
    const song = this.song();
    return song ? meterOf(song).nearest(at, what) : Math.round(at);
  }

  /** True where it was done, or nothing had to be. */
  private make(edit: (song: Song) => Edit | EditProblem | null, how = 'time'): boolean {
    const song = this.song();
    const made = song && edit(song);
    return !made || this.changes.make(made, how) === null;
  }

  private tellShortBars(): void {
    const song = this.song();
    const short = song ? shortBars(song) : [];
    if (short.length > 0) this.said.say(`Bar ${short.join(', ')} is cut short by the meter that begins behind it.`);
  }
}
