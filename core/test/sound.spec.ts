import {
  Scheduler,
  timeline,
  voiceKind,
  percussionName,
  type Output,
  type Sounding,
  type Source,
} from '@early-sparrow/core/sound';
import { asPlayed } from '@early-sparrow/core/smf';
import { tempoOf } from '@early-sparrow/core/song';
import { note, song, withEvents } from './build';

/** A device whose clock is turned by hand; it writes down what it is told. */
class Recorder implements Output {
  time = 0;
  readonly notes: { id: number; at: number; seconds: number }[] = [];
  readonly clicks: number[] = [];
  silenced = 0;
  now(): number {
    return this.time;
  }
  note(_track: number, n: Sounding, time: number, seconds: number): void {
    this.notes.push({ id: n.id, at: time, seconds });
  }
  click(time: number): void {
    this.clicks.push(time);
  }
  silence(): void {
    this.silenced++;
  }
}

const sounding = (id: number, start: number, end: number): Sounding => ({
  id,
  start,
  end,
  pitch: 60,
  velocity: 80,
  channel: 0,
});

function rig(notes: Sounding[], loop: { from: number; to: number } | null = null, end = 4000) {
  const output = new Recorder();
  const state = { notes, loop };
  const source: Source = {
    tracks: () => [{ track: 0, notes: state.notes }],
    beats: (from, to) =>
      [0, 500, 1000, 1500].filter((b) => b >= from && b < to).map((ms) => ({ ms, accent: ms === 0 })),
    loop: () => state.loop,
    end: () => end,
  };
  const scheduler = new Scheduler(source, output);
  const run = (seconds: number) => {
    for (const until = output.time + seconds; output.time < until; output.time += 0.025) scheduler.turn();
  };
  return { output, scheduler, state, run };
}

describe('the scheduler', () => {
  it('hands over each note once, ahead of time, at its exact place', () => {
    const { output, scheduler, run } = rig([sounding(0, 0, 100), sounding(1, 333, 500), sounding(2, 1000, 1200)]);
    scheduler.start(0);
    run(2);
    const begin = output.notes[0].at;
    expect(begin).toBeGreaterThan(0);
    expect(output.notes.map((n) => n.id)).toEqual([0, 1, 2]);
    expect(output.notes.map((n) => n.at - begin)).toEqual([0, expect.closeTo(0.333, 9), expect.closeTo(1, 9)]);
    expect(output.notes[1].seconds).toBeCloseTo(0.167, 9);
  });

  it('loops without a gap and cuts notes at the loop’s end', () => {
    const { output, scheduler, run } = rig([sounding(0, 1000, 1100), sounding(1, 1900, 2600)], {
      from: 1000,
      to: 2000,
    });
    scheduler.start(0);
    run(3.2);
    const begin = output.notes[0].at;
    const rounds = output.notes.filter((n) => n.id === 0).map((n) => n.at - begin);
    expect(rounds.slice(0, 3)).toEqual([0, expect.closeTo(1, 9), expect.closeTo(2, 9)]);
    expect(output.notes.filter((n) => n.id === 1).every((n) => n.seconds <= 0.1 + 1e-9)).toBe(true);
    expect(scheduler.position()).toBeGreaterThanOrEqual(1000);
    expect(scheduler.position()).toBeLessThan(2000);
  });

  it('goes at once to a loop that is set behind what is heard', () => {
    const { output, scheduler, state, run } = rig([
      sounding(0, 100, 200),
      sounding(1, 1500, 1600),
      sounding(2, 1900, 2000),
    ]);
    scheduler.start(1000);
    run(0.7);
    state.loop = { from: 0, to: 1000 };
    run(0.1);
    expect(scheduler.position()).toBeLessThan(200);
    run(1.4);
    expect(output.notes.map((n) => n.id)).toEqual([1, 0, 0]);
    expect(output.silenced).toBe(1);
  });

  it('a loop whose end was moved before what is already handed over wraps at its end', () => {
    const { scheduler, state, run } = rig([sounding(0, 100, 200)], { from: 0, to: 4000 }, 9000);
    scheduler.start(0);
    run(0.5);
    const at = scheduler.position();
    state.loop = { from: 0, to: at + 40 };
    run(0.15);
    expect(scheduler.position()).toBeLessThan(200);
  });

  it('a switch while playing neither strikes a note twice nor loses one', () => {
    const played = Array.from({ length: 40 }, (_, i) => sounding(i, i * 100 + 20, i * 100 + 80));
    const corrected = played.map((n) => ({ ...n, start: n.start - 20, end: n.end - 20 }));
    const { output, scheduler, state, run } = rig(played);
    scheduler.start(0);
    for (let i = 0; i < 16; i++) {
      run(0.225);
      state.notes = state.notes === played ? corrected : played;
    }
    const struck = output.notes.map((n) => n.id).sort((a, b) => a - b);
    expect(struck).toEqual([...new Set(struck)]);
    expect(struck.slice(0, 34)).toEqual(Array.from({ length: 34 }, (_, i) => i));
  });

  it('silences the output on stop and stops by itself at the end', () => {
    const { output, scheduler, run } = rig([sounding(0, 0, 90000)], null, 600);
    scheduler.start(0);
    run(2);
    expect(scheduler.playing).toBe(false);
    expect(output.silenced).toBe(1);
  });

  it('clicks on the beats', () => {
    const { output, scheduler, run } = rig([sounding(0, 0, 10)]);
    scheduler.start(0);
    run(1.2);
    expect(output.clicks.slice(0, 3).map((t) => t - output.clicks[0])).toEqual(
      [0, 0.5, 1].map((t) => expect.closeTo(t, 9)),
    );
  });
});

describe('the timeline', () => {
  const pedal = (tick: number, value: number, order: number) =>
    ({ tick, order, type: 'controller', channel: 0, controller: 64, value }) as const;
  const of = (events: ReturnType<typeof pedal>[], ...notes: ReturnType<typeof note>[]) => {
    const s = song(notes);
    return timeline(asPlayed(withEvents(s, events))[0], tempoOf(s)).map((n) => [n.start, n.end]);
  };

  it('holds notes while the damper is down, until the key is struck again', () => {
    // 960 ticks are 500 ms; source for controller 64 from value 64 on: MIDI 1.0
    expect(of([pedal(100, 127, 0), pedal(1920, 0, 1)], note(0, 0, { length: 480 }))).toEqual([[0, 1000]]);
    expect(
      of([pedal(100, 127, 0), pedal(1920, 0, 1)], note(0, 0, { length: 480 }), note(1, 960, { length: 96 })),
    ).toEqual([
      [0, 500],
      [500, 1000],
    ]);
  });

  it('is not held for ever by a damper that never lifts', () => {
    expect(of([pedal(0, 127, 0)], note(0, 0, { length: 480 }))).toEqual([[0, 250]]);
  });
});

describe('voices', () => {
  it('follow General MIDI', () => {
    // source: General MIDI System Level 1, sound set and percussion map
    const track = (program: number, channel = 0) => ({
      ...song([note(0, 0, { channel })]).tracks[0],
      setup: [{ tick: 0, order: 0, type: 'program', channel, program }] as const,
    });
    expect([0, 12, 25, 33, 48, 71].map((p) => voiceKind(track(p)))).toEqual([
      'keys',
      'mallets',
      'plucked',
      'bass',
      'strings',
      'reed',
    ]);
    expect(voiceKind(track(40, 9))).toBe('drums');
    expect([36, 38, 42, 44, 46].map(percussionName)).toEqual([
      'Bass drum',
      'Snare',
      'Closed hi-hat',
      'Pedal hi-hat',
      'Open hi-hat',
    ]);
  });
});
