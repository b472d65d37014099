import fc from 'fast-check';
import {
  AlignedLines,
  canonicalGrid,
  formatGrid,
  grid,
  gridLines,
  GridTextError,
  GRID_VALUES,
  parseGrid,
  stepTicks,
  swingAmount,
  swingFromAmount,
  type Grid,
} from '@early-sparrow/core/grid';
import { describeTicks, MeterMap, TempoMap } from '@early-sparrow/core/time';

const PPQ = 960;
const time = (meter: [number, number, number][] = [], tempo: [number, number][] = []) => ({
  meter: new MeterMap(
    PPQ,
    meter.map(([tick, numerator, denominator]) => ({ tick, numerator, denominator })),
  ),
  tempo: new TempoMap(
    PPQ,
    tempo.map(([tick, bpm]) => ({ tick, usPerQuarter: 60e6 / bpm })),
  ),
});
const lines = (text: string, to = 3840, more: Partial<Grid> = {}, t = time()) =>
  gridLines({ ...parseGrid(text), ...more }, t)
    .between(0, to)
    .map((l) => Math.round(l * 1000) / 1000);

describe('steps', () => {
  // source: the definitions of note values (a quarter is 960 ticks here); triplet 3:2, tuplets n in the time of m
  it.each([
    ['1/4', 960],
    ['1/8', 480],
    ['1/16', 240],
    ['1/32', 120],
    ['1/64', 60],
    ['1/8T', 320],
    ['1/16T', 160],
    ['1/8.', 720],
    ['1/16 5:4', 192],
    ['1/16 7:4', 137.142857],
    ['1/16 9:8', 213.333333],
  ])('%s is %f ticks', (text, ticks) => expect(stepTicks(parseGrid(text), PPQ)).toBeCloseTo(ticks, 5));
});

describe('lines', () => {
  it('swing goes by pairs: two thirds is the triplet, three quarters is 3:1', () => {
    // source: the definition of swing as a share of the pair (Friberg & Sundström 2002, Music Perception 19:3)
    expect(lines('1/8', 1920, { swing: 2 / 3 })).toEqual([0, 640, 960, 1600]);
    expect(lines('1/8 ~75%', 1920)).toEqual([0, 720, 960, 1680]);
    expect(swingAmount(2 / 3)).toBeCloseTo(66.667, 2);
    expect(swingFromAmount(100)).toBe(0.75);
  });

  it('a mix is the union of both sets', () => {
    expect(lines('1/16+1/8T', 960)).toEqual([0, 240, 320, 480, 640, 720]);
  });

  it('a step that does not divide the bar leaves a shorter last one, and the downbeat is a line', () => {
    expect(lines('1/4.', 7680)).toEqual([0, 1440, 2880, 3840, 5280, 6720]);
    expect(lines('1/4.', 4400, { restart: 'song' })).toEqual([0, 1440, 2880, 4320]);
  });

  it('a lone last step is not swung', () => {
    // 3/8 has three eighths: the third has no partner
    expect(lines('1/8 ~75%', 2880, {}, time([[0, 3, 8]]))).toEqual([0, 720, 960, 1440, 2160, 2400]);
  });

  it('follow changes of meter, and a bar cut short by one', () => {
    const t = time([
      [0, 3, 4],
      [4000, 4, 4],
    ]);
    expect(lines('1/2', 8000, {}, t)).toEqual([0, 1920, 2880, 4000, 5920, 7840]);
  });

  it('move with a shift in ms under a changing tempo, never before the start', () => {
    const t = time(
      [],
      [
        [0, 120],
        [1920, 60],
      ],
    );
    // 10 ms are 19.2 ticks at 120 BPM and 9.6 at 60
    expect(lines('1/4', 3000, { shift: { value: 10, unit: 'ms' } }, t)).toEqual([19.2, 979.2, 1929.6, 2889.6]);
    expect(lines('1/4', 2000, { shift: { value: -10, unit: 'ticks' } })).toEqual([0, 950, 1910]);
  });

  const anyGrid = fc.record({
    value: fc.constantFrom(...GRID_VALUES),
    shape: fc.constantFrom<Grid['shape']>('straight', 'dotted', { n: 3, m: 2 }, { n: 5, m: 4 }, { n: 7, m: 4 }),
    swing: fc.constantFrom(0.3, 0.5, 0.62, 0.75),
    mix: fc.constantFrom<Grid['mix']>(null, { value: 8, shape: { n: 3, m: 2 } }),
    shift: fc.constantFrom<Grid['shift']>(
      { value: 0, unit: 'ms' },
      { value: 7, unit: 'ms' },
      { value: -30, unit: 'ticks' },
    ),
    restart: fc.constantFrom<Grid['restart']>('bar', 'song'),
  });
  const times = [
    time(),
    time(
      [
        [0, 7, 8],
        [20160, 5, 4],
        [24000, 3, 4],
      ],
      [
        [0, 90],
        [5000, 140],
      ],
    ),
    // Bars cut short beside any line.
    time([
      [0, 4, 4],
      [5000, 3, 4],
      [9010, 4, 4],
    ]),
  ];

  it('nearest is the nearest of all lines, and halfway is the later one', () => {
    fc.assert(
      fc.property(
        anyGrid,
        fc.constantFrom(...times),
        fc.array(fc.double({ min: 0, max: 40000, noNaN: true })),
        (g, t, places) => {
          const all = gridLines(g, t).between(0, 60000);
          const found = gridLines(g, t);
          for (const place of places) {
            const best = all.reduce((a, b) => (Math.abs(b - place) <= Math.abs(a - place) ? b : a));
            expect(Math.abs(found.nearest(place) - place)).toBeCloseTo(Math.abs(best - place), 6);
            expect(found.before).toBeLessThanOrEqual(place);
            expect(found.after).toBeGreaterThan(place);
          }
        },
      ),
    );
    const plain = gridLines(grid(4), time());
    expect(plain.nearest(480)).toBe(960);
    expect(plain.nearest(479.9)).toBe(0);
  });

  it('nearest of many places are those of each, on lines that go by other places too', () => {
    // On lines and halfway between them, before the song and at changes of meter, in any order.
    const place = fc.oneof(
      fc.integer({ min: -8, max: 2700 }).map((n) => n * 15),
      fc.double({ min: -500, max: 40000, noNaN: true }),
    );
    fc.assert(
      fc.property(
        anyGrid,
        fc.constantFrom(...times),
        fc.array(place, { maxLength: 40 }),
        fc.boolean(),
        fc.boolean(),
        (g, t, places, aligned, inOrder) => {
          if (inOrder) places.sort((a, b) => a - b);
          const made = () => {
            const base = gridLines(g, t);
            return aligned ? new AlignedLines(base, [100, 930, 2020, 20_300], t.tempo) : base;
          };
          const out = new Float64Array(places.length);
          made().nearestOf(Float64Array.from(places), out);
          expect([...out]).toEqual(places.map((p) => made().nearest(p)));
        },
      ),
    );
  });
});

describe('grids in text', () => {
  it('come back as they were written', () => {
    for (const text of ['1/16', '1/8T', '1/8.', '1/16 5:4', '1/16+1/8T', '1/16 ~62%', '1/8. ~60%']) {
      expect(formatGrid(parseGrid(text))).toBe(text);
    }
  });

  it('with the same lines are one grid', () => {
    expect(formatGrid(canonicalGrid(parseGrid('1/16 6:4')))).toBe('1/16T');
    expect(formatGrid(canonicalGrid(parseGrid('1/16+1/8')))).toBe('1/16');
    expect(formatGrid(canonicalGrid(parseGrid('1/8 2:1')))).toBe('1/16');
    expect(formatGrid(canonicalGrid(parseGrid('1/16+1/8T')))).toBe('1/16+1/8T');
  });

  it.each(['', '1/7', '1/16 ~95%', '1/8T ~60%', '1/16+1/8+1/4', '1/16 16:2', 'sixteenths'])(
    'refuses “%s” with advice',
    (text) => {
      expect(() => parseGrid(text)).toThrow(GridTextError);
      expect(() => parseGrid(text)).toThrow(/Write 1\/16/);
    },
  );
});

describe('time', () => {
  it('tells an amount in three units', () => {
    // common practice (no source): a 1/192 note is 20 ticks at 960 PPQ, 8.7 ms at 144 BPM
    expect(describeTicks(20, 960, 144)).toBe('20 ticks · 1/192 · 8.7 ms');
  });

  it('goes both ways through changes of tempo', () => {
    const { tempo } = time(
      [],
      [
        [0, 120],
        [960, 60],
        [2880, 200],
      ],
    );
    expect(tempo.toMs(960)).toBeCloseTo(500, 9);
    expect(tempo.toMs(2880)).toBeCloseTo(2500, 9);
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1e6, noNaN: true }), (tick) =>
        expect(tempo.toTick(tempo.toMs(tick))).toBeCloseTo(tick, 5),
      ),
    );
  });

  it('counts bars and beats through changes of meter', () => {
    const { meter } = time([
      [0, 3, 4],
      [5760, 6, 8],
    ]);
    expect(meter.toBarBeat(2880)).toEqual({ bar: 2, beat: 1, tick: 0 });
    expect(meter.toBarBeat(5760 + 490)).toEqual({ bar: 3, beat: 2, tick: 10 });
    expect(meter.tickOfBar(4)).toBe(5760 + 2880);
  });
});
