import fc from 'fast-check';
import {
  Conductor,
  countIn,
  heardIn,
  type Leg,
  type Players,
  type ScoreTrack,
  type TickKind,
  type When,
} from '@early-sparrow/core/sound';
import { song } from './build';
import { score } from './scores';

const RATE = 48_000;
const BLOCK = 128;

/** Players who write down at which frame they were asked for what. */
class Recorder implements Players {
  frame = 0;
  readonly log: { what: string; frame: number; pitch?: number }[] = [];
  noteOn(_track: string, _slot: number, pitch: number): void {
    this.log.push({ what: 'on', frame: this.frame, pitch });
  }
  noteOff(_track: string, _slot: number, pitch: number): void {
    this.log.push({ what: 'off', frame: this.frame, pitch });
  }
  message(_track: string, _slot: number, status: number, first: number, second: number): void {
    this.log.push({ what: `${status.toString(16)} ${first} ${second}`, frame: this.frame });
  }
  tick(kind: TickKind): void {
    this.log.push({ what: kind, frame: this.frame });
  }
  silence(): void {
    this.log.push({ what: 'silence', frame: this.frame });
  }
  reset(): void {
    // A chase follows.
  }
  render(_left: Float32Array, _right: Float32Array, _from: number, count: number): void {
    this.frame += count;
  }
  /** Frames of what happened. */
  of(what: string): number[] {
    return this.log.filter((l) => l.what === what).map((l) => l.frame);
  }
}

function rig(track: ScoreTrack) {
  const players = new Recorder();
  const legs: Leg[] = [];
  const struck: { id: number; frame: number; when: When }[] = [];
  let ended = 0;
  const conductor = new Conductor(players, RATE, {
    leg: (leg) => legs.push(leg),
    struck: (_track, id, frame, when) => struck.push({ id, frame, when }),
    ended: () => ended++,
  });
  conductor.setTrack('t', track);
  const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  const run = (ms: number) => {
    for (const until = players.frame + (ms * RATE) / 1000; players.frame < until;) conductor.render(left, right);
  };
  return { conductor, players, legs, struck, run, ended: () => ended };
}

const frames = (ms: number) => Math.round((ms * RATE) / 1000);

describe('what is heard at a frame', () => {
  it('is where the conductor is, turns of a loop that were not told of included', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1500 }), fc.integer({ min: 100, max: 700 }), (from, length) => {
        const loop = { from: 500, to: 500 + length };
        const { conductor, legs, run } = rig(score([]));
        conductor.setLoop(loop);
        conductor.start(from);
        const [first] = legs;
        for (let i = 0; i < 20; i++) {
          run(97);
          const frame = first.frame + (i + 1) * Math.ceil((97 * RATE) / 1000 / BLOCK) * BLOCK;
          const reckoned = heardIn(first, frame, RATE, loop);
          const told = heardIn(legs[legs.length - 1], frame, RATE, loop);
          // Each turn is a whole number of frames: they part by a fraction of one.
          const apart = Math.abs(reckoned.ms - told.ms);
          expect(Math.min(apart, Math.abs(apart - length))).toBeLessThan(0.5);
          if (apart < 0.5) expect(reckoned.round).toBe(told.round);
          expect(reckoned.ms).toBeLessThan(loop.to + 0.5);
        }
      }),
      { numRuns: 40 },
    );
    // A loop that ends before the leg begins does not turn it.
    const leg = { frame: 0, ms: 3000, msPerSecond: 1000, round: 0 };
    expect(heardIn(leg, RATE, RATE, { from: 0, to: 1000 }).ms).toBe(4000);
  });
});

describe('the conductor', () => {
  it('catches up with a pedal-up or a bend that a change moved behind the playhead', () => {
    const held = score(
      [],
      [
        [100, 0xb0, 64, 127],
        [150, 0xe0, 0, 96],
        [800, 0xb0, 64, 0],
      ],
    );
    const { conductor, players, run } = rig(held);
    conductor.start(0);
    run(400);
    conductor.setTrack(
      't',
      score(
        [],
        [
          [100, 0xb0, 64, 127],
          [300, 0xb0, 64, 0],
        ],
      ),
    );
    run(10);
    const told = players.log.map((l) => l.what);
    expect(told.slice(-2).sort()).toEqual(['b0 64 0', 'e0 0 64']);
    run(800);
    // It is told once.
    expect(players.of('b0 64 0')).toHaveLength(1);
    // What changes nothing of it tells nothing.
    const { length } = players.log;
    conductor.setTrack(
      't',
      score(
        [{ id: 1, start: 5000, end: 5100 }],
        [
          [100, 0xb0, 64, 127],
          [300, 0xb0, 64, 0],
        ],
      ),
    );
    expect(players.log).toHaveLength(length);
  });

  it('lets pedals go where it finishes', () => {
    const { conductor, players, run } = rig(score([], [[100, 0xb0, 64, 127]]));
    conductor.start(0);
    run(400);
    conductor.finish();
    expect(players.of('b0 64 0')).toHaveLength(1);
  });

  it('strikes every note once, on its very frame, and lets it go on its own', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 900, noNaN: true }), { minLength: 1, maxLength: 40 }),
        fc.double({ min: 0, max: 300, noNaN: true }),
        (starts, from) => {
          const notes = starts.map((start, id) => ({ id, start, end: start + 20 + id }));
          const { conductor, players, struck, run } = rig(score(notes));
          conductor.start(from);
          run(1200);
          const heard = notes.filter((n) => n.start >= from);
          expect(struck.map((s) => s.id).sort((a, b) => a - b)).toEqual(heard.map((n) => n.id));
          for (const n of heard) {
            const [on] = players.log.filter((l) => l.what === 'on' && l.pitch === 40 + n.id);
            const [off] = players.log.filter((l) => l.what === 'off' && l.pitch === 40 + n.id);
            expect(Math.abs(on.frame - frames(n.start - from))).toBeLessThanOrEqual(1);
            expect(Math.abs(off.frame - frames(n.end - from))).toBeLessThanOrEqual(1);
          }
          expect(struck.every((s) => s.when === 'due')).toBe(true);
        },
      ),
    );
  });

  it('loops to the frame, cuts notes at the end of the loop, and never drifts', () => {
    const { conductor, players, run } = rig(
      score([
        { id: 0, start: 1000, end: 1100 },
        { id: 1, start: 1300, end: 2600 },
      ]),
    );
    conductor.setLoop({ from: 1000, to: 1333.3 });
    conductor.start(0);
    run(20_000);
    const rounds = players.log.filter((l) => l.what === 'on' && l.pitch === 40).map((l) => l.frame);
    expect(rounds.length).toBe(61);
    // A loop is a whole number of frames long, the same each round.
    rounds.forEach((frame, k) => expect(frame).toBe(k * frames(333.3)));
    const [on, off] = [players.of('on').length, players.log.filter((l) => l.what === 'silence').length];
    expect(on).toBe(61 + 60);
    expect(off).toBeGreaterThanOrEqual(60);
  });

  it('goes at once to a loop that is set behind it, and takes one shorter than a note', () => {
    const { conductor, players, struck, run } = rig(
      score([
        { id: 0, start: 100, end: 900 },
        { id: 1, start: 1500, end: 1600 },
      ]),
    );
    conductor.start(1000);
    run(700);
    conductor.setLoop({ from: 100, to: 150 });
    run(500);
    expect(conductor.position).toBeLessThan(150);
    expect(struck.filter((s) => s.id === 0)).toHaveLength(11);
    conductor.setLoop({ from: 100, to: 100 });
    run(900);
    expect(conductor.position).toBeGreaterThan(900);
    conductor.stop();
    expect(players.log[players.log.length - 1].what).toBe('silence');
  });

  it('a change while playing is heard at once: no note twice, none lost, none left sounding', () => {
    const played = Array.from({ length: 40 }, (_, id) => ({ id, start: id * 100 + 20, end: id * 100 + 80 }));
    const corrected = played.map((n) => ({ ...n, start: n.start - 20, end: n.end - 20 }));
    const { conductor, players, struck, run } = rig(score(played));
    conductor.start(0);
    for (let i = 0; i < 18; i++) {
      run(227);
      conductor.setTrack('t', score(i % 2 === 0 ? corrected : played));
    }
    run(300);
    const ids = struck.map((s) => s.id);
    expect(ids).toEqual([...new Set(ids)]);
    expect(new Set(ids).size).toBe(40);
    expect(players.of('on').length).toBe(players.of('off').length);
  });

  it('tells a note that a change moved over the playhead from one that is late', () => {
    const notes = (from: number) =>
      Array.from({ length: 9 }, (_, id) => ({ id, start: from + id * 100, end: from + id * 100 + 20 }));
    const { conductor, players, struck, run } = rig(score(notes(60)));
    conductor.start(0);
    run(340);
    const at = players.frame;
    conductor.setTrack('t', score(notes(20)));
    run(700);
    const moved = struck.filter((s) => s.when !== 'due');
    // The fourth one would have come at 360, and should have at 320: it comes at once.
    expect(moved).toEqual([{ id: 3, frame: at, when: 'moved' }]);
    expect(struck).toHaveLength(9);
  });

  it('ends a sounding note where a change says, and one that is gone at once', () => {
    const { conductor, players, run } = rig(
      score([
        { id: 0, start: 0, end: 5000 },
        { id: 1, start: 10, end: 5000 },
      ]),
    );
    conductor.start(0);
    run(100);
    conductor.setTrack('t', score([{ id: 0, start: 0, end: 300 }]));
    run(400);
    const off = (pitch: number) => players.log.find((l) => l.what === 'off' && l.pitch === pitch)?.frame ?? NaN;
    expect(off(40)).toBe(frames(300));
    expect(off(41)).toBeLessThanOrEqual(frames(100) + BLOCK);
  });

  it('counts in before the first note, and ends after the last', () => {
    const { conductor, players, struck, run, ended } = rig(score([{ id: 0, start: 0, end: 50 }]));
    conductor.setEnd(100);
    conductor.start(0, 0, countIn(song([]), 0, 1));
    run(2200);
    // 120 BPM in 4/4
    expect(players.of('bar')).toEqual([0]);
    expect(players.of('beat')).toEqual([24_000, 48_000, 72_000]);
    expect(struck[0].frame).toBe(96_000);
    expect(ended()).toBe(1);
    expect(conductor.playing).toBe(false);
  });

  it('at half speed everything lies twice as far apart', () => {
    const { conductor, struck, run } = rig(
      score([
        { id: 0, start: 100, end: 150 },
        { id: 1, start: 250, end: 300 },
      ]),
    );
    conductor.setRate(0.5);
    conductor.start(0);
    run(300);
    conductor.setRate(1);
    run(200);
    expect(struck[0].frame).toBe(frames(200));
    // 150 ms are left at the song's own speed, from the block in which it was changed on.
    expect(struck[1].frame).toBeGreaterThan(frames(300));
    expect(struck[1].frame).toBeLessThanOrEqual(frames(401));
  });

  it('goes on where it was after frames that the device left out, and says so', () => {
    const { conductor, legs, struck, run } = rig(score([{ id: 0, start: 500, end: 600 }]));
    conductor.start(0);
    run(200);
    conductor.at(48_000);
    expect(conductor.position).toBeCloseTo(200, 0);
    expect(legs[legs.length - 1].frame).toBeGreaterThan(0);
    run(400);
    // Three hundred ms of the song were left when the device went on at its frame 48,000.
    expect(Math.abs(struck[0].frame - 48_000 - frames(300))).toBeLessThanOrEqual(BLOCK);
  });

  it('finds pedals, bends and volumes as they are where playing begins', () => {
    const events = [
      [0, 0xb0, 7, 90],
      [10, 0xb0, 64, 127],
      [20, 0xb0, 7, 40],
      [30, 0xe0, 0, 80],
      [500, 0xb0, 64, 0],
    ] as const;
    const { conductor, players, run } = rig(score([], events));
    conductor.start(100);
    run(600);
    expect(players.log.filter((l) => l.what !== 'silence')).toEqual([
      { what: 'b0 64 127', frame: 0 },
      { what: 'b0 7 40', frame: 0 },
      { what: 'e0 0 80', frame: 0 },
      { what: 'b0 64 0', frame: frames(400) },
    ]);
  });

  it('a track that is muted falls silent at once and comes back with its next note', () => {
    const { conductor, players, struck, run } = rig(
      score([
        { id: 0, start: 0, end: 900 },
        { id: 1, start: 200, end: 300 },
        { id: 2, start: 400, end: 500 },
      ]),
    );
    conductor.start(0);
    run(100);
    conductor.setAudible('t', false);
    expect(players.of('off')).toHaveLength(1);
    run(200);
    conductor.setAudible('t', true);
    run(300);
    expect(struck.map((s) => s.id)).toEqual([0, 2]);
  });
});
