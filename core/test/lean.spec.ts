import { parseGrid } from '@early-sparrow/core/grid';
import { analysePart, leansThroughout, partOffsets, songLean } from '@early-sparrow/core/insight';
import type { Note, Song } from '@early-sparrow/core/song';
import { note, part, song, type Stages } from './build';

/** A song of several tracks, each a list of starts in ticks. */
function tracks(starts: readonly (readonly number[])[], stages: Stages = {}): Song {
  const base = song([], stages);
  const [track] = base.tracks;
  return {
    ...base,
    tracks: starts.map((list, t) => ({
      ...track,
      id: `t${t}`,
      parts: [
        { ...track.parts[0], id: `p${t}`, notes: list.map((at, i): Note => note(t * 100 + i, at, { pitch: 40 + t })) },
      ],
    })),
  };
}
const every = (step: number, lateTicks: number, n = 16) =>
  Array.from({ length: n }, (_, i) => 3840 + i * step + lateTicks + ((i * 7) % 5) - 2);
// 100 ticks at 120 BPM are 52 ms.
const beside = [every(960, 100), every(480, 102), every(240, 98), every(960, 5)];

describe('the lean of a whole song', () => {
  it('is told where most tracks lie beside the bars alike', () => {
    const found = songLean(tracks(beside));
    expect(found?.ms).toBeCloseTo(52, 0);
    expect(found?.parts.map((p) => p.id)).toEqual(['p0', 'p1', 'p2']);
  });

  it('is not told of few tracks, of tracks that differ, nor of steady ones', () => {
    expect(songLean(tracks(beside.slice(0, 2)))).toBeNull();
    expect(songLean(tracks([every(960, 100), every(960, -60), every(960, 20)]))).toBeNull();
    expect(songLean(tracks([every(960, 2), every(960, 0), every(480, 1)]))).toBeNull();
  });

  it('is the gap further where the beats are played then', () => {
    // 160 ticks late of the beat are 80 early of the next sixteenth.
    expect(songLean(tracks([every(960, 160), every(960, 161), every(960, 159)]))?.ms).toBeCloseTo(83.3, 0);
  });

  it('is gone once it is taken away', () => {
    expect(songLean(tracks(beside, { lag: { on: true, amount: { value: 52, unit: 'ms' } } }))).toBeNull();
  });
});

describe('a lean throughout', () => {
  const leans = (starts: readonly number[]) => {
    const s = tracks([starts]);
    return leansThroughout(partOffsets(part(s), s).played);
  };
  it('is no median of what lies all over, nor of a swing', () => {
    expect(leans(every(240, 40))).toBe(true);
    expect(leans(every(240, -40))).toBe(true);
    expect(leans(every(240, 0).map((t, i) => t + (i % 2) * 60))).toBe(false);
    expect(leans(every(240, 0).map((t, i) => t + ((i * 37) % 100) - 40))).toBe(false);
    expect(leans(every(240, 0).map((t, i) => t - (i % 2) * 60))).toBe(false);
  });
});

describe('offsets after the treatment', () => {
  const late = every(240, 40);
  it('are those of the corrected notes, and the played ones stay what they were', () => {
    const s = tracks([late], { quantize: { on: true, grid: parseGrid('1/16'), strength: 0.5 } });
    expect(partOffsets(part(s), s).played.median).toBeCloseTo(20.8, 0);
    expect(partOffsets(part(s), s).now.median).toBeCloseTo(10.4, 0);
    const full = tracks([late], { quantize: { on: true, grid: parseGrid('1/16') } });
    expect(partOffsets(part(full), full).now).toMatchObject({ median: 0, onLine: 1 });
  });
});

describe('a suggestion', () => {
  it('shows the swing that it is taken with', () => {
    const swung = Array.from({ length: 64 }, (_, i) =>
      note(i, 3840 + i * 240 + (i % 2) * 59 + ((i * 5) % 7), { pitch: 42 }),
    );
    const s = song(swung);
    const analysis = analysePart(part(s), s);
    expect(analysis.fits[0].grid.swing).toBeCloseTo(analysis.swing?.share ?? 0, 3);
    for (const fit of analysis.fits) expect(parseGrid(fit.text).swing).toBeCloseTo(fit.grid.swing, 2);
  });

  it('of equal explanations has the smaller lag', () => {
    // 22 ticks are 11 ms early; on thirty-seconds a lag of 51 ms late explains the same notes as well.
    const early = song(every(240, -22, 64).map((at, i) => note(i, at)));
    const lags = new Map(analysePart(part(early), early).fits.map((f) => [f.text, f.lagMs]));
    expect(lags.get('1/16')).toBe(-11);
    expect(lags.get('1/32')).toBe(-11);
  });
});
