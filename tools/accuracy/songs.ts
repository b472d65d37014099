import { gridLines, isSwung, parseGrid, type Grid, type SongTime } from '@early-sparrow/core/grid';
import { analysePlaces, freeChords } from '@early-sparrow/core/insight';
import { median, normalQuantile } from '@early-sparrow/core/maths';
import { remediesOf, trackNotes, type Remedy, type Setting } from '@early-sparrow/core/remedy';
import {
  byPlace,
  newPart,
  newSong,
  newTrack,
  timeOf,
  type Note,
  type Song,
  type Track,
} from '@early-sparrow/core/song';
import { toColumns } from '@early-sparrow/core/treatment';
import { gapMs, performPlan, pinkNoise, quickNormal, stream, type Performed, type Plan } from './perform';

/** A track of a generated song, with what is known about it. */
export interface KnownTrack {
  readonly plan: Plan;
  readonly performed: Performed;
}

const FEELS = [
  '1/8',
  '1/16',
  '1/16',
  '1/16',
  '1/8T',
  '1/16T',
  '1/8 ~58%',
  '1/8 ~66%',
  '1/16 ~57%',
  '1/16 ~62%',
  '1/16+1/8T',
  '1/4',
];
const DENSITIES = ['plain', 'syncopated', 'flat', 'sparse'] as const;
const METERS = [
  [4, 4],
  [4, 4],
  [4, 4],
  [3, 4],
  [6, 8],
] as const;

/**
 * A song of 5 to 30 tracks in one tempo and meter: each with a feel, a lag, an unevenness and a length of its own, the lags most
 * often around a common one; one track in seven wanders.
 */
export function knownSong(seed: number): { readonly song: Song; readonly tracks: readonly KnownTrack[] } {
  const random = stream(seed, 51);
  const of = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
  const meter = of(METERS);
  const bpm = 65 + random() * 95;
  const common = 14 * normalQuantile(random());
  const count = 5 + Math.floor(random() * 26);
  const tracks = Array.from({ length: count }, (_, i): KnownTrack => {
    const grid = parseGrid(of(FEELS));
    const gap = gapMs(grid, bpm, meter);
    const own = random() < 0.85 ? common + 9 * normalQuantile(random()) : 25 * normalQuantile(random());
    const deep = (0.25 + random() * 0.5) * gap;
    const bars = 6 + random() * 10;
    const wanders = random() < 1 / 7;
    const plan: Plan = {
      seed: seed * 100 + i,
      grid,
      bpm,
      meter,
      chords: 20 + Math.floor(random() ** 2 * 400),
      density: of(DENSITIES),
      lagMs: Math.max(-60, Math.min(60, own)),
      jitterMs: Math.max(2, Math.min(25, (0.03 + random() * 0.15) * gap)),
      driftMs: 0,
      fine: random() < 0.2 ? 0.08 : 1,
      correlated: random() < 0.5,
      ...(wanders ? { wander: (q: number) => deep * Math.sin((2 * Math.PI * q) / (bars * 4)) } : {}),
    };
    return { plan, performed: performPlan(plan) };
  });
  const { tempo } = tracks[0].performed.time;
  let id = 1;
  const song: Song = {
    ...newSong('Known'),
    tempo: [{ tick: 0, usPerQuarter: Math.round(60e6 / tempo.bpmAt(0)) }],
    meter: [{ tick: 0, numerator: meter[0], denominator: meter[1], clocks: 24, thirtySeconds: 8 }],
    tracks: tracks.map(({ performed }, i) => {
      const notes = Array.from(performed.place, (start): Note => ({
        id: id++,
        start,
        length: 100,
        pitch: 60 + (id % 7),
        velocity: 80,
        channel: 0,
        release: 64,
      }));
      const end = (notes.at(-1)?.start ?? 0) + 4000;
      return newTrack(`t${9000 + i}`, `Track ${i + 1}`, {
        parts: [newPart(`p${8000 + i}`, 'Part', 0, end, { notes })],
      });
    }),
  };
  return { song: { ...song, nextId: 20_000 + id }, tracks };
}

/** What is proposed for a known song. */
export function remediesFor({ song, tracks }: ReturnType<typeof knownSong>): Remedy[] {
  return remediesOf(
    song,
    tracks.map(({ performed }) => analysePlaces(performed.place, performed.time)),
  );
}

/** Of the chords of a track that is right so many are on the line that was meant. */
const ON_LINES = 0.98;
const SAME_LINE_MS = 3;
const LAG_MS = 5;

/**
 * The share of a track's chords that a setting puts on the line that was meant, by the nearest lines. A swing within three points
 * is the same swing.
 */
export function onTheirLines({ grid, lagMs }: Setting, { place, line, time }: Performed, meant?: Grid): number {
  const swung = meant && isSwung(grid) && isSwung(meant) && grid.value === meant.value;
  const same = swung && Math.abs(grid.swing - meant.swing) < 0.03 ? { ...grid, swing: meant.swing } : grid;
  const lines = gridLines(same, time);
  const right = place.filter((tick, i) => {
    const put = lines.nearest(time.tempo.shift(tick, -lagMs));
    return Math.abs(time.tempo.between(put, line[i])) <= SAME_LINE_MS;
  });
  return right.length / Math.max(1, place.length);
}

/** The lag that a track was played with: the median of what it is off the lines that were meant. Slow wandering adds to what was planned. */
export function playedLag({ place, line, time }: Performed): number {
  return median(place.map((tick, i) => time.tempo.between(line[i], tick)));
}

/** How well songs are put right. */
export interface SongScore {
  readonly songs: number;
  readonly tracks: number;
  readonly sure: number;
  /** Of the sure ones: the lag within 5 ms, and at least 98 % of the chords on the line that was meant. */
  readonly right: number;
  readonly wrong: readonly string[];
}

export function scoreSongs(songs: number, first = 1): SongScore {
  let [tracks, sure, right] = [0, 0, 0];
  const wrong: string[] = [];
  for (let seed = first; seed < first + songs; seed++) {
    const known = knownSong(seed);
    remediesFor(known).forEach((remedy, i) => {
      tracks++;
      if (remedy.state !== 'sure') return;
      sure++;
      const { plan, performed } = known.tracks[i];
      const lag = Math.abs(remedy.setting!.lagMs - playedLag(performed)) <= LAG_MS;
      if (lag && onTheirLines(remedy.setting!, performed, plan.grid) >= ON_LINES) right++;
      else wrong.push(`${seed}.${i} ${describe(remedy, plan)}`);
    });
  }
  return { songs, tracks, sure, right, wrong };
}

/**
 * Real files whose tracks lie on their lines, played as if by people: each with a lag of its own around a common one, and 4 to
 * 10 ms of unevenness, half of it long-range correlated. What the file has is the truth.
 */
export function scoreReal(songs: readonly Song[]): SongScore {
  let [tracks, sure, right] = [0, 0, 0];
  const wrong: string[] = [];
  songs.forEach((song, seed) => {
    const time = timeOf(song);
    const random = stream(seed, 61);
    const common = 14 * normalQuantile(random());
    const known = song.tracks.flatMap((track): { track: Track; meant: Float64Array; lag: number }[] => {
      const meant = freeChords(toColumns(trackNotes(track)), time);
      if (meant.length < 16) return [];
      const analysis = analysePlaces(meant, time);
      // Only of what lies on its lines is the truth known.
      const [best] = analysis.fits;
      if (!best || Math.abs(analysis.lag?.ms ?? 99) > 1 || best.missMs > 1 || best.merges > 0) return [];
      return [{ track, meant, lag: common + 8 * normalQuantile(random()) }];
    });
    const played = known.map(({ track, lag }, i) => playTrack(track, song, lag, 4 + 6 * random(), seed * 100 + i));
    const whole = { ...song, tracks: played.map((p) => p.track) };
    const places = whole.tracks.map((t) => freeChords(toColumns(trackNotes(t)), time));
    const remedies = remediesOf(
      whole,
      places.map((place) => (place.length > 0 ? analysePlaces(place, time) : null)),
    );
    remedies.forEach((remedy, i) => {
      tracks++;
      if (remedy.state !== 'sure') return;
      sure++;
      const { meant } = known[i];
      const { lag, track } = played[i];
      const on = share(places[i], meant, lag, remedy.setting!, time);
      if (Math.abs(remedy.setting!.lagMs - lag) <= LAG_MS && on >= ON_LINES) right++;
      else
        wrong.push(
          `${song.name} ${track.name}: lag ${lag.toFixed(1)}, ${JSON.stringify(remedy.setting)}, ${on.toFixed(3)} on lines`,
        );
    });
  });
  return { songs: songs.length, tracks, sure, right, wrong };
}

/** How many chords are put where they were meant, by the place that is nearest once the lag is gone. */
function share(
  place: Float64Array,
  meant: Float64Array,
  lag: number,
  { grid, lagMs }: Setting,
  time: SongTime,
): number {
  const lines = gridLines(grid, time);
  const right = place.filter((tick) => {
    const put = lines.nearest(time.tempo.shift(tick, -lagMs));
    return Math.abs(time.tempo.between(nearestOf(meant, time.tempo.shift(tick, -lag)), put)) <= SAME_LINE_MS;
  });
  return right.length / Math.max(1, place.length);
}

function nearestOf(sorted: Float64Array, tick: number): number {
  let best = sorted[0];
  for (const t of sorted) if (Math.abs(t - tick) < Math.abs(best - tick)) best = t;
  return best;
}

/** A track as it is played, and the lag that it was played with: the median over its chords. */
function playTrack(
  track: Track,
  song: Song,
  lagMs: number,
  jitterMs: number,
  seed: number,
): { track: Track; lag: number } {
  const { tempo } = timeOf(song);
  const slow = pinkNoise(seed);
  const offsets = new Map<number, number>();
  const offsetAt = (tick: number) => {
    let ms = offsets.get(tick);
    // A chord is played together.
    if (ms === undefined) {
      const i = offsets.size;
      ms = lagMs + jitterMs * Math.SQRT1_2 * (quickNormal(seed, i, 62) + slow(i));
      offsets.set(tick, ms);
    }
    return ms;
  };
  const parts = track.parts.map((part) => ({
    ...part,
    notes: part.notes
      .map((n) => ({ ...n, start: Math.max(0, Math.round(tempo.shift(n.start, offsetAt(n.start)))) }))
      .sort(byPlace),
  }));
  return { track: { ...track, parts }, lag: median([...offsets.values()]) };
}

function describe({ analysis, setting }: Remedy, plan: Plan): string {
  const fits = analysis?.fits.slice(0, 2).map((f) => `${f.text} ${(f.bits * plan.chords).toFixed(0)}`);
  const near = analysis?.readings.slice(0, 2).map((r) => `${r.fit.text} ${r.lag.ms.toFixed(0)} ${r.behind.toFixed(0)}`);
  return `${JSON.stringify(plan.grid.value)} ${plan.grid.swing} ${String(plan.grid.shape)} lag ${plan.lagMs.toFixed(1)} found ${setting?.lagMs} jitter ${plan.jitterMs.toFixed(1)} of ${gapMs(plan.grid, plan.bpm, plan.meter).toFixed(0)} ${plan.chords} chords ${plan.density} ${plan.fine} ${plan.wander ? 'wanders' : ''}: ${fits?.join(', ')} | ${near?.join(', ')}`;
}
