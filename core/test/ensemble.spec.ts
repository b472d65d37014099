import { asynchronies, asynchrony, onsetsOf, playingTracks, type Onsets } from '@early-sparrow/core/insight';
import { newTrack, type Song } from '@early-sparrow/core/song';
import { pinkNoise, quickNormal, stream } from '../../tools/accuracy/perform';
import { note, part, song } from './build';

interface Player {
  readonly lagMs: number;
  /** Share of sixteenths that are played. */
  readonly share: number;
  readonly jitterMs: number;
  readonly wanderMs: number;
}

/** What a player plays over so many sixteenths at 120 BPM. @param drift what the player wanders by, in units of `wanderMs` */
function onsets({ lagMs, share, jitterMs, wanderMs }: Player, seed: number, drift: (i: number) => number): Onsets {
  const chance = stream(seed, 7);
  const played: [number, number][] = [];
  for (let i = 0; i < 1200; i++) {
    if (chance() > (i % 4 === 0 ? 0.9 : share)) continue;
    const away = wanderMs * drift(i) + jitterMs * quickNormal(seed, i, 8);
    played.push([i * 125 + lagMs + away, away]);
  }
  played.sort((a, b) => a[0] - b[0]);
  return { at: Float64Array.from(played, ([at]) => at), away: Float64Array.from(played, ([, away]) => away) };
}

/** Two players with lags of their own; they wander together or each by himself. */
function pair(seed: number, together: boolean) {
  const random = stream(seed, 3);
  const player = (): Player => ({
    lagMs: (random() - 0.5) * 80,
    share: 0.2 + random() * 0.7,
    jitterMs: 3 + random() * 8,
    wanderMs: together ? 12 : 3 + random() * 3,
  });
  const [first, second] = [player(), player()];
  const shared = pinkNoise(seed * 2 + 1);
  const own = pinkNoise(seed * 2 + 2);
  const found = asynchrony(onsets(first, seed * 2 + 1, shared), onsets(second, seed * 2 + 2, together ? shared : own));
  return { found, truth: first.lagMs - second.lagMs };
}

const RUNS = 200;

describe('who is ahead of whom', () => {
  it('players who wander together: the asynchrony is within 2 ms, its interval holds, and they are alike', () => {
    let [close, held, alike] = [0, 0, 0];
    for (let seed = 1; seed <= RUNS; seed++) {
      const { found, truth } = pair(seed, true);
      if (!found) throw new Error('They play together.');
      close += Math.abs(found.ms - truth) <= 2 ? 1 : 0;
      held += found.interval.low <= truth && truth <= found.interval.high ? 1 : 0;
      alike += (found.alike ?? 0) > 0.6 ? 1 : 0;
    }
    expect(close / RUNS).toBeGreaterThanOrEqual(0.95);
    expect(held / RUNS).toBeGreaterThanOrEqual(0.93);
    expect(alike / RUNS).toBeGreaterThanOrEqual(0.95);
  });

  it('players who wander each by himself: the interval still holds, and they are not alike', () => {
    let [held, alike] = [0, 0];
    for (let seed = 1; seed <= RUNS; seed++) {
      const { found, truth } = pair(seed, false);
      if (!found) throw new Error('They play together.');
      held += found.interval.low <= truth && truth <= found.interval.high ? 1 : 0;
      alike += (found.alike ?? 0) > 0.6 ? 1 : 0;
    }
    expect(held / RUNS).toBeGreaterThanOrEqual(0.93);
    expect(alike / RUNS).toBeLessThan(0.1);
  });

  it('of a song, each track against each other one, either way round', () => {
    const beats = Array.from({ length: 40 }, (_, i) => i * 480);
    const base = song(beats.map((t, i) => note(i, t + 100)));
    const other = { ...part(base), id: 'p2', notes: beats.map((t, i) => note(100 + i, t + 119)) };
    const alone = {
      ...part(base),
      id: 'p3',
      start: 40_000,
      end: 60_000,
      notes: beats.map((t, i) => note(200 + i, 40_000 + t)),
    };
    const both: Song = {
      ...base,
      nextId: 300,
      tracks: [base.tracks[0], newTrack('b', 'Behind', { parts: [other] }), newTrack('c', 'Alone', { parts: [alone] })],
    };
    const tracks = playingTracks(both);
    const cells = asynchronies(tracks.map((t) => onsetsOf(t, both, false)));
    expect(tracks.map((t) => t.name)).toEqual(['Track', 'Behind', 'Alone']);
    // 19.2 ticks are 10 ms at 120 BPM and 960 ticks a quarter.
    expect(cells[0][1]?.ms).toBeCloseTo(-19 / 1.92, 6);
    expect(cells[1][0]?.ms).toBeCloseTo(19 / 1.92, 6);
    expect(cells[1][0]?.pairs).toBe(40);
    expect([cells[0][0], cells[0][2], cells[2][1]]).toEqual([null, null, null]);
  });

  it('too little together says nothing, and nobody against nobody neither', () => {
    const few = { at: Float64Array.of(0, 500, 1000), away: new Float64Array(3) };
    expect(asynchrony(few, few)).toBeNull();
    const none = { at: new Float64Array(0), away: new Float64Array(0) };
    expect(asynchrony(none, few)).toBeNull();
    expect(asynchrony(few, none)).toBeNull();
  });
});
