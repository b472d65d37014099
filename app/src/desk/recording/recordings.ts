import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { isProblem, type EditProblem, type Step } from '@early-sparrow/core/edit';
import {
  playedIn,
  playedOutside,
  playedOver,
  recordedEdit,
  trackLike,
  type Pass,
  type Passing,
  type PlayedMessage,
  type PlayedNote,
  type Recorded,
  type Recording,
  type Round,
} from '@early-sparrow/core/record';
import {
  DEFAULT_TREATMENT,
  FIRST_NOTE_EARLY,
  meterOf,
  tempoOf,
  timeOf,
  type Song,
  type Track,
} from '@early-sparrow/core/song';
import { treatmentLines } from '@early-sparrow/core/treatment';
import { Said } from '../../common/said';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';
import type { Plan } from '../../storage/played-store';
import { Passes } from './passes';

/** What became of a recording. */
export type Done = 'done' | 'nothing' | 'refused';

/** Brings what was recorded into the open song. */
@Injectable()
export class Recordings {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly said = inject(Said);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly history = this.store.selectSignal(deskFeature.selectHistory);
  private readonly track = this.store.selectSignal(deskFeature.selectTrack);
  private readonly part = this.store.selectSignal(deskFeature.selectPart);
  /** The track that the last recording went into. */
  private made: string | null = null;

  /** Puts a recording into the song as one step. @param began what it is known by */
  put(plan: Plan, passes: readonly Pass[], began: string): Done {
    const song = this.song();
    if (!song) return 'refused';
    const how = this.passing(plan, song);
    return this.bring(plan, playedIn(passes, how), plan.replace ? playedOver(passes, how) : [], stepName(began));
  }

  /** Notes that were heard around a recording and are in no part: before it, or outside of its punch range. */
  outside(plan: Plan, passes: readonly Pass[], before: readonly PlayedMessage[]): PlayedNote[] {
    const song = this.song();
    if (!song) return [];
    const how = this.passing(plan, song);
    const early = playedIn([beforeIt(before)], { ...how, begin: null, loopEnd: null, punch: null });
    return [...early.flatMap((r) => r.notes), ...playedOutside(passes, how)];
  }

  /** Adds such notes to the current part, where that is what was recorded into, or to a part of their own. */
  add(plan: Plan, notes: readonly PlayedNote[]): Done {
    const track = this.track();
    const part = this.part();
    const fits = track && part && (plan.track === track.id || this.made === track.id);
    const into = fits ? { track: track.id, into: part.id } : { track: null, into: null };
    const whole: Plan = { ...plan, ...into, replace: false, loop: null, punch: null, from: notes[0].start };
    return this.bring(whole, [{ notes, events: [] }], [], 'record');
  }

  /** Whether a recording is a step of the song, or was and is undone. */
  has(began: string): boolean {
    const history = this.history();
    const is = ({ edit }: Step) => edit.how === stepName(began);
    return history !== null && (history.undo.some(is) || history.redo.some(is));
  }

  /** The passes of a recording that was cut off, as far as its messages tell them. */
  passesOf({ from, latency }: Plan, messages: readonly PlayedMessage[]): Pass[] {
    const song = this.song();
    return Passes.of(song ? tempoOf(song).toMs(from) : 0, messages, latency);
  }

  /** Puts rounds where the plan says, or into a track of their own where that has no room. */
  private bring(plan: Plan, rounds: readonly Round[], replace: Recording['replace'], how: string): Done {
    const song = this.song();
    if (!song) return 'refused';
    const step = this.step(song, plan, rounds, replace);
    if (step === null) return 'nothing';
    const fits = !isProblem(step);
    if (!fits && plan.track === null) return this.changes.make(step, how) ? 'refused' : 'done';
    // Nothing that was played is lost: a track of its own takes it in any case.
    const own = fits ? step : this.step(song, { ...plan, track: null, into: null }, rounds, []);
    if (own === null || isProblem(own)) return 'nothing';
    const goes = { track: own.track, part: own.part, set: null, selection: [] };
    if (this.changes.make(own.edit, how, goes)) return 'refused';
    this.made = own.track;
    if (!fits) this.said.say(`${step.problem} What was played is in a track of its own.`);
    return 'done';
  }

  private step(
    song: Song,
    plan: Plan,
    rounds: readonly Round[],
    replace: Recording['replace'],
  ): Recorded | EditProblem | null {
    const track = this.songTrack(plan.track) ?? trackLike(song, freeName(song), this.songTrack(plan.like));
    const meter = meterOf(song);
    const starts = rounds.flatMap((r) => r.notes.map((n) => n.start));
    const border = plan.loop ?? plan.punch ?? { from: plan.from, to: plan.from + 1 };
    const from = starts.reduce((least, start) => Math.min(least, start + FIRST_NOTE_EARLY * song.ppq), border.from);
    const to = starts.reduce((most, start) => Math.max(most, start + 1), border.to);
    return recordedEdit(song, rounds, {
      track,
      into: track.parts.find((p) => p.id === plan.into) ?? null,
      replace,
      treatment: plan.correct ? (this.part()?.treatment ?? null) : null,
      name: `Record ${track.name}`,
      from: meter.wholeBar(Math.floor(from)).start,
      to: Math.max(meter.wholeBar(Math.max(0, Math.ceil(to) - 1)).end, meter.wholeBar(Math.floor(from)).end),
    });
  }

  private songTrack(id: string | null): Track | null {
    return this.song()?.tracks.find((t) => t.id === id) ?? null;
  }

  private passing(plan: Plan, song: Song): Passing {
    const tempo = tempoOf(song);
    const { loop, punch } = plan;
    const like = this.songTrack(plan.track) ?? this.songTrack(plan.like);
    return {
      tempo,
      // The lines that are played to: those of the current part.
      lines: treatmentLines((this.part()?.treatment ?? DEFAULT_TREATMENT).quantize, timeOf(song)),
      latency: plan.latency,
      begin: loop ? tempo.toMs(loop.from) : null,
      loopEnd: loop ? tempo.toMs(loop.to) : null,
      channel: like?.channel ?? like?.parts.at(0)?.notes.at(0)?.channel ?? null,
      punch: punch ? { from: tempo.toMs(punch.from), to: tempo.toMs(punch.to) } : null,
    };
  }
}

/** How the step of a recording is told, so that it is known again. */
function stepName(began: string): string {
  return `record ${began}`;
}

/** What was played before recording began. */
function beforeIt(messages: readonly PlayedMessage[]): Pass {
  return { messages, from: messages.at(0)?.ms ?? 0, stopped: messages.at(-1)?.ms ?? 0, round: 0 };
}

/** A name for a track that no other has. */
function freeName(song: Song): string {
  const names = new Set(song.tracks.map((t) => t.name));
  let n = 1;
  while (names.has(`Recording ${n}`)) n++;
  return `Recording ${n}`;
}
