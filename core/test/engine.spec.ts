import { timeOf } from '@early-sparrow/core/song';
import fc from 'fast-check';
import { barPattern, gridLines, makePattern, parseGrid, songPattern } from '@early-sparrow/core/grid';
import { BUILT_IN_GROOVES, grooveLines, grooveVelocities } from '@early-sparrow/core/groove';
import {
  analysePart,
  driftCurve,
  findLag,
  readTogether,
  type Analysis,
  freeChords,
  gridName,
  measureSwing,
  noteOffsets,
  reasonFor,
  reportCsv,
  smallestGapMs,
  summarize,
  swingShare,
} from '@early-sparrow/core/insight';
import { blockBootstrap, hash3, normalQuantile } from '@early-sparrow/core/maths';
import { applyRecipe, BUILT_IN_RECIPES } from '@early-sparrow/core/recipe';
import { MeterMap, TempoMap } from '@early-sparrow/core/time';
import {
  followMap,
  groupChords,
  limitIn,
  mapTick,
  noteReports,
  partColumns,
  sideGap,
  Treater,
  treatEvents,
  treatPart,
} from '@early-sparrow/core/treatment';
import { withEvents, note, part, song, treated, treatment } from './build';

const plain = timeOf(song([]));
const uniform = (seed: number, i: number) => (hash3(seed, i, 7) + 0.5) / 2 ** 32;
const normal = (seed: number, i: number) => normalQuantile(uniform(seed, i));

describe('patterns', () => {
  it('find the line below every place in constant time', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 0, max: 3800 }), { minLength: 1, maxLength: 40 }), (places) => {
        const { lines, index, period } = makePattern(3840, places);
        index.forEach((line, slot) => {
          const at = (slot * period) / index.length;
          const below = [...lines].filter((l) => l <= at).length - 1;
          expect(line).toBe(below);
        });
      }),
    );
  });

  it('of a song’s cycle are whole quarters, the same lines as bar by bar where the bar is a cycle', () => {
    for (const text of ['1/16', '1/8T', '1/16 ~62%', '1/16+1/8T', '1/16 5:4']) {
      const cycle = songPattern(parseGrid(text), 960);
      expect(cycle.period % 960).toBe(0);
      const bar = barPattern(parseGrid(text), 3840, 960).lines;
      const repeated = Array.from({ length: 3840 / cycle.period }, (_, k) =>
        [...cycle.lines].map((l) => l + k * cycle.period),
      ).flat();
      expect(repeated).toHaveLength(bar.length);
      repeated.forEach((l, i) => expect(l).toBeCloseTo(bar[i], 6));
    }
  });
});

describe('limits', () => {
  const lines = gridLines(parseGrid('1/16+1/8T'), plain);
  it('are the same everywhere in ticks and ms, and follow the gap in percent', () => {
    expect(limitIn({ value: 9, unit: 'ticks' }, lines, plain)(0, 0)).toBe(9);
    expect(limitIn({ value: 10, unit: 'ms' }, lines, plain)(500, 480)).toBeCloseTo(19.2, 9);
    const percent = limitIn({ value: 50, unit: 'percent' }, lines, plain);
    expect(percent(310, 320)).toBe(20);
    expect(percent(330, 320)).toBe(40);
    expect([sideGap(-1, 0, lines), sideGap(1, 0, lines)]).toEqual([240, 240]);
  });

  it('in ms follow a change of tempo', () => {
    const time = { meter: new MeterMap(960, []), tempo: new TempoMap(960, [{ tick: 960, usPerQuarter: 1_000_000 }]) };
    const limit = limitIn({ value: 10, unit: 'ms' }, gridLines(parseGrid('1/4'), time), time);
    expect(limit(950, 960)).toBeCloseTo(19.2, 9);
    expect(limit(970, 960)).toBeCloseTo(9.6, 9);
  });
});

describe('chords', () => {
  const group = (starts: number[], text = '1/16', pitches = starts.map((_, i) => 60 + i)) => {
    const s = song(starts.map((t, i) => note(i, t, { pitch: pitches[i] })));
    const columns = partColumns(part(s));
    return [...groupChords(columns, columns.start, gridLines(parseGrid(text), plain), plain, 30).first];
  };
  it('span 30 ms at most, or 0.4 of the gap where that is less', () => {
    expect(group([0, 50, 57, 58])).toEqual([0, 3, 4]);
    expect(group([0, 50, 57, 58], '1/32')).toEqual([0, 1, 4]);
    expect(group([])).toEqual([0]);
  });
  it('are counted from their first start, so that a roll does not chain', () => {
    expect(group([0, 40, 80, 120])).toEqual([0, 2, 4]);
  });
});

describe('the treater', () => {
  const columns = partColumns(
    part(song(Array.from({ length: 200 }, (_, i) => note(i, i * 237, { pitch: 50 + (i % 20) })))),
  );
  const on = (strength: number) => treatment({ quantize: { on: true, grid: parseGrid('1/16'), strength } });

  it('finds chords and lines once for all strengths, and anew for another grid', () => {
    const treater = new Treater(columns, plain);
    const chords = treater.chords(on(1));
    expect(treater.stages(on(0.3)).chords).toBe(chords);
    expect(treater.chords(treatment({ quantize: { on: true, grid: parseGrid('1/8') } }))).not.toBe(chords);
  });

  it('gives the same whether it remembers or not', () => {
    const treater = new Treater(columns, plain);
    for (const strength of [0.2, 0.9, 0.2]) {
      const fresh = new Treater(columns, plain).stages(on(strength));
      expect(treater.stages(on(strength)).start).toEqual(fresh.start);
    }
  });

  it('never touches what it was given', () => {
    const before = columns.start.slice();
    new Treater(columns, plain).stages(
      treatment({
        quantize: { on: true },
        humanize: { on: true, start: 30 },
        lag: { on: true, amount: { value: 9, unit: 'ms' } },
      }),
    );
    expect(columns.start).toEqual(before);
  });
});

describe('events that follow', () => {
  const s = song([note(0, 1000), note(1, 2000, { pitch: 62 }), note(2, 2900, { pitch: 64 })], {
    quantize: { on: true, grid: parseGrid('1/4') },
  });
  const treatedPart = treatPart(part(s), s);

  it('go by straight lines between the anchors, and constantly outside', () => {
    const anchors = followMap(treatedPart, []);
    expect(anchors.map((a) => a.to)).toEqual([960, 1920, 2880]);
    expect(mapTick(anchors, 1000)).toBe(960);
    expect(mapTick(anchors, 1500)).toBe(1440);
    expect(mapTick(anchors, 500)).toBe(460);
    expect(mapTick(anchors, 10)).toBe(0);
    expect(mapTick(anchors, 4000)).toBe(3980);
    expect(mapTick([], 77)).toBe(77);
  });

  it('stay, follow or go to lines, as each kind is set', () => {
    const events = [
      { tick: 1500, order: 0, type: 'bend', channel: 0, value: 100 },
      { tick: 1500, order: 1, type: 'pressure', channel: 0, value: 9 },
      { tick: 1500, order: 2, type: 'bend', channel: 5, value: 1 },
    ] as const;
    const at = (modes: object) => {
      const t = treated(s, { quantize: { ...part(s).treatment.quantize, ...modes } });
      return Array.from(treatEvents(withEvents(t, events).tracks[0].parts, t)[0]);
    };
    // Another channel is another player's.
    expect(at({})).toEqual([1440, 1500, 1500]);
    expect(at({ bend: 'stay', pressure: 'quantize' })).toEqual([1500, 1920, 1500]);
  });
});

describe('grooves as lines', () => {
  const groove = (name: string) => {
    const found = BUILT_IN_GROOVES.find((g) => g.groove.name === name)?.groove;
    if (!found) throw new Error(name);
    return found;
  };
  it('move each slot’s line by its offset times the amount', () => {
    const lines = (timing: number) =>
      grooveLines({ groove: groove('Triplet tide'), timing, velocity: 0 }, { value: 0, unit: 'ms' }, plain).between(
        0,
        1920,
      );
    expect(lines(1).map(Math.round)).toEqual([0, 640, 960, 1600]);
    expect(lines(0)).toEqual([0, 480, 960, 1440]);
  });
  it('tell how loud a line is, in every bar', () => {
    const loud = grooveVelocities(
      { groove: groove('Late backbeat'), timing: 1, velocity: 1 },
      { value: 0, unit: 'ms' },
      plain,
    );
    expect(loud(960 + 29)).toBe(1.15);
    expect(loud(3840 * 5 + 960)).toBe(1.15);
    expect(loud(0)).toBe(1);
  });
});

describe('lag and swing', () => {
  it('a lag is the median offset', () => {
    const place = Float64Array.from({ length: 100 }, (_, i) => 3840 + i * 240 + 40 + normal(5, i) * 8);
    const lag = findLag(place, parseGrid('1/16'), 20, plain);
    expect(Math.abs(lag.ms - 20.8)).toBeLessThan(1.5);
    expect(lag.interval?.low).toBeLessThan(lag.ms);
    expect(smallestGapMs(parseGrid('1/16+1/8T'), plain)).toBeCloseTo(41.67, 1);
  });

  it('of two possible readings the one that agrees with the other tracks is taken, its grid with its lag', () => {
    const lag = (ms: number) => ({ ms, interval: null, drifting: false, wanderMs: 0, sure: false });
    const fit = (text: string, lagMs: number) => ({
      text,
      grid: parseGrid(text),
      lagMs,
      bits: 1,
      missMs: 1,
      merges: 0,
      reason: '',
    });
    const track = (ms: number, ...others: [ms: number, behind: number, text: string][]): Analysis => ({
      chords: 100,
      sure: true,
      fits: [fit('1/16', ms), fit('1/8', ms)],
      lag: lag(ms),
      swing: null,
      readings: others.map(([m, behind, text]) => ({ fit: fit(text, m), behind, lag: lag(m), swing: null })),
    });
    const lags = (...tracks: (Analysis | null)[]) => readTogether(tracks).map((a) => a?.lag?.ms ?? null);
    const unsure = track(45, [-17, 4, '1/32']);
    expect(lags(unsure, track(-12), track(-15), track(-20))).toEqual([-17, -12, -15, -20]);
    expect(readTogether([unsure, track(-12), track(-15)])[0].fits.map((f) => f.text)).toEqual(['1/32', '1/16', '1/8']);
    expect(lags(null, unsure, track(40))).toEqual([null, 45, 40]);
    expect(lags(unsure)).toEqual([45]);
    expect(lags(track(45), track(-12))).toEqual([45, -12]);
    // One that takes much more to explain is not taken for the others' sake.
    expect(lags(track(45, [-17, 19, '1/32']), track(-12), track(-15))[0]).toBe(45);
    // Two that are not certain settle each other.
    expect(lags(unsure, track(-14, [48, 4, '1/16']), track(-20, [42, 4, '1/16']))).toEqual([-17, -14, -20]);
    // Taken back it is what it was.
    const [taken] = readTogether([unsure, track(-12), track(-15), track(-20)]);
    expect(taken.readings[0]).toMatchObject({ behind: -4, fit: { text: '1/16' }, lag: { ms: 45 } });
  });

  it.each([0.54, 0.6, 0.62, 2 / 3, 0.72])('a swing of %f is measured, whatever the lag', (share) => {
    for (const lagMs of [-30, 0, 30]) {
      const place = Float64Array.from({ length: 160 }, (_, i) => {
        const swung = i % 2 === 1 ? (share - 0.5) * 480 : 0;
        return 3840 + i * 240 + swung + lagMs * 1.92 + normal(11, i) * 6;
      });
      const found = measureSwing(place, { ...parseGrid('1/16'), swing: share }, lagMs, plain);
      expect(Math.abs((found?.share ?? 0) - share)).toBeLessThan(0.007);
      expect(found?.pairs.tick).toHaveLength(80);
      expect(swingShare(place, { ...parseGrid('1/16'), swing: share }, lagMs, plain)).toBe(found?.share);
    }
  });

  it('is not measured from on-beats alone', () => {
    const place = Float64Array.from({ length: 50 }, (_, i) => 3840 + i * 480);
    expect(measureSwing(place, parseGrid('1/16 ~62%'), 0, plain)).toBeNull();
  });

  it('intervals of a median hold the truth in about 95 of 100 samples', () => {
    let held = 0;
    for (let seed = 1; seed <= 100; seed++) {
      const sample = Float64Array.from({ length: 80 }, (_, i) => normal(seed * 977, i));
      const middle = (picked: Int32Array) => {
        const sorted = Float64Array.from(picked, (i) => sample[i]).sort();
        return (sorted[39] + sorted[40]) / 2;
      };
      const { low, high } = blockBootstrap(80, middle);
      if (low <= 0 && high >= 0) held++;
    }
    expect(held).toBeGreaterThanOrEqual(87);
    expect(held).toBeLessThanOrEqual(100);
  });
});

describe('what is told', () => {
  it('summaries count early, late and what is between', () => {
    expect(summarize(Float64Array.of(-30, -5, 0, 5, 40))).toMatchObject({
      chords: 5,
      median: 0,
      early: 0.2,
      late: 0.2,
      onLine: expect.closeTo(0.6, 9),
      typicalMiss: 5,
    });
    expect(summarize(new Float64Array())).toMatchObject({ chords: 0, median: 0 });
  });

  it('reasons are plain and name what is wrong', () => {
    const best = { grid: parseGrid('1/16'), missMs: 4, merges: 0 };
    expect(reasonFor(best, best, 0, 100)).toBe(
      'Most chords are within 4.0 ms of the sixteenth lines, and nothing merges.',
    );
    expect(reasonFor({ ...best, grid: parseGrid('1/8'), merges: 30 }, best, 1, 100)).toMatch(/^Too coarse: 30 chords/);
    expect(reasonFor({ ...best, missMs: 40 }, best, 1, 100)).toContain('not the lines that were meant');
    expect(reasonFor({ ...best, grid: parseGrid('1/32'), missMs: 3.9 }, best, 1, 100)).toMatch(/^Finer than needed/);
    expect(gridName(parseGrid('1/16 ~62%+1/8T'))).toBe('swung sixteenth and eighth triplet');
  });

  it('chords are found before any grid is known', () => {
    const s = song([note(0, 0), note(1, 20, { pitch: 64 }), note(2, 30, { pitch: 67 }), note(3, 500)]);
    expect([...freeChords(partColumns(part(s)), plain)]).toEqual([20, 500]);
  });

  it('tables hold every note, with its fate', () => {
    const s = song([note(0, 250), note(1, 480)], { quantize: { on: true, grid: parseGrid('1/16') } });
    const lines = reportCsv(noteReports(part(s), s)).split('\r\n');
    expect(lines[1]).toBe('0,60,250,240,240,5.208,0,moved');
    expect(lines[2]).toBe('1,60,480,480,480,0,0,on-line');
    expect([...noteOffsets(part(s), s)].map((x) => Math.round(x))).toEqual([5, 0]);
    expect(driftCurve(part(s), s)).toHaveLength(2);
  });
});

describe('recipes', () => {
  const swung = song(
    Array.from({ length: 96 }, (_, i) =>
      note(i, 3840 + i * 240 + (i % 2 ? 58 : 0) + 38 + Math.round(normal(2, i) * 4), { pitch: 40 + (i % 3) }),
    ),
  );
  it('find grid and lag anew from the notes they are applied to', () => {
    const tight = BUILT_IN_RECIPES.find((r) => r.name === 'Tight drums');
    if (!tight) throw new Error('The recipe is gone.');
    const t = applyRecipe(tight, part(swung), swung);
    expect(t.quantize.grid.value).toBe(16);
    expect(t.quantize.grid.swing).toBeCloseTo(0.62, 2);
    expect(Math.abs(t.lag.amount.value - 19.8)).toBeLessThan(1.5);
    expect(t.quantize.strength).toBe(0.92);
    expect(analysePart(part(swung), swung).sure).toBe(true);
  });
  it('leave what they do not find as it is written in them', () => {
    const loosen = BUILT_IN_RECIPES.find((r) => r.name === 'Loosen the machine');
    if (!loosen) throw new Error('The recipe is gone.');
    expect(applyRecipe(loosen, part(swung), swung)).toBe(loosen.treatment);
  });
});
