import { gridLines, parseGrid } from '@early-sparrow/core/grid';
import { analysePlaces } from '@early-sparrow/core/insight';
import { normalQuantile } from '@early-sparrow/core/maths';
import { MeterMap, TempoMap } from '@early-sparrow/core/time';
import { stream, type Performed } from './perform';

/** Swung eighths with a few sixteenths that are not swung: the ghost notes of a shuffle, where a player fills in. */
export interface GhostPlan {
  readonly seed: number;
  readonly bpm: number;
  readonly meter: readonly [number, number];
  /** Of eighths (of sixteenths in compound meters, whose eighths are even). */
  readonly swing: number;
  readonly bars: number;
  /** Share of bars that have ghost notes at all, and of their places that are played in these. */
  readonly ghostBars: number;
  readonly ghosts: number;
  readonly lagMs: number;
  readonly jitterMs: number;
}

export interface GhostScore {
  readonly takes: number;
  readonly lagErrors: readonly number[];
  /** Takes whose lag is told as sure and is off by more than 10 ms. */
  readonly sureAndFalse: number;
  readonly sure: number;
  /** Notes on beats that quantizing by the suggestion puts elsewhere, as a share of all such notes. */
  readonly offBeat: number;
  readonly wrong: readonly string[];
}

const PPQ = 960;

export function ghostPlan(seed: number): GhostPlan {
  const random = stream(seed, 71);
  const meters = [
    [4, 4],
    [4, 4],
    [4, 4],
    [3, 4],
    [2, 4],
  ] as const;
  return {
    seed,
    meter: meters[Math.floor(random() * meters.length)],
    bpm: 75 + random() * 110,
    swing: 0.53 + random() * 0.14,
    bars: 12 + Math.floor(random() * 40),
    ghostBars: [0.25, 0.5, 1][Math.floor(random() * 3)],
    ghosts: 0.1 + random() * 0.3,
    lagMs: -45 + random() * 90,
    jitterMs: 2 + random() * 8,
  };
}

export function performGhosts(plan: GhostPlan): Performed & { readonly onBeat: readonly boolean[] } {
  const [numerator, denominator] = plan.meter;
  const meter = new MeterMap(PPQ, [{ tick: 0, numerator, denominator }]);
  const tempo = new TempoMap(PPQ, [{ tick: 0, usPerQuarter: 60e6 / plan.bpm }]);
  const random = stream(plan.seed, 72);
  const noise = stream(plan.seed, 73);
  const played: { at: number; line: number; beat: boolean }[] = [];
  const { barTicks, beatTicks } = meter.pieces[0];
  const habit = Array.from({ length: numerator * 2 }, () => [random() < 0.9, random() < 0.75]);
  for (let bar = 1; bar <= plan.bars; bar++) {
    const ghostly = random() < plan.ghostBars;
    for (let beat = 0; beat < numerator; beat++) {
      const from = bar * barTicks + beat * beatTicks;
      const usual = habit[(bar % 2) * numerator + beat];
      const eighths = usual.map((u) => (random() < 0.15 ? random() < 0.6 : u));
      const places = [
        { in: 0, is: eighths[0] },
        { in: 0.25, is: ghostly && random() < plan.ghosts },
        { in: plan.swing, is: eighths[1] },
        { in: 0.75, is: ghostly && random() < plan.ghosts },
      ];
      for (const place of places) {
        if (!place.is) continue;
        const line = from + place.in * beatTicks;
        const off = plan.lagMs + plan.jitterMs * normalQuantile(noise());
        played.push({ at: tempo.shift(line, off), line, beat: place.in === 0 });
      }
    }
  }
  played.sort((a, b) => a.at - b.at);
  return {
    time: { tempo, meter },
    place: Float64Array.from(played, (p) => Math.round(p.at)),
    line: Float64Array.from(played, (p) => p.line),
    onBeat: played.map((p) => p.beat),
  };
}

export function scoreGhosts(runs: number, seed: number): GhostScore {
  const lagErrors: number[] = [];
  const wrong: string[] = [];
  let [sure, sureAndFalse, beats, off] = [0, 0, 0, 0];
  for (let i = 0; i < runs; i++) {
    const plan = ghostPlan(seed + i);
    const { place, line, onBeat, time } = performGhosts(plan);
    const analysis = analysePlaces(place, time);
    const { fits, lag } = analysis;
    const error = Math.abs((lag?.ms ?? 0) - plan.lagMs);
    lagErrors.push(error);
    if (lag?.sure) sure++;
    if (lag?.sure && error > 10) sureAndFalse++;
    const lines = gridLines(parseGrid(fits[0].text), time);
    place.forEach((tick, k) => {
      if (!onBeat[k]) return;
      beats++;
      if (Math.abs(lines.nearest(time.tempo.shift(tick, -(lag?.ms ?? 0))) - line[k]) > 1) off++;
    });
    if (error > 10) {
      const told = fits.slice(0, 3).map((f) => `${f.text} ${f.bits.toFixed(2)} at ${f.lagMs}`);
      wrong.push(
        `${seed + i} ${(plan.swing * 100).toFixed(0)} % ${plan.meter.join('/')} ${plan.bpm.toFixed(0)} BPM, ${place.length} chords, jitter ${plan.jitterMs.toFixed(1)} lag ${plan.lagMs.toFixed(0)}: ${told.join(', ')}`,
      );
    }
  }
  return { takes: runs, lagErrors, sure, sureAndFalse, offBeat: off / beats, wrong };
}
