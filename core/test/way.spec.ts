import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { analysePart } from '@early-sparrow/core/insight';
import { applyRecipe, BUILT_IN_RECIPES } from '@early-sparrow/core/recipe';
import { readSmf } from '@early-sparrow/core/smf';
import { timeOf, type Note, type Song } from '@early-sparrow/core/song';
import { factsOf, noteWay } from '@early-sparrow/core/treatment';
import { anySongAtAll } from './any';
import { note, part, song } from './build';

/** Whether the steps of every note's way, or of some of them, add up to where it lies. */
function addsUp(s: Song, every = 1): void {
  const { tempo } = timeOf(s);
  for (const { parts } of s.tracks) {
    for (const p of parts) {
      const facts = factsOf(p, s);
      for (let i = 0; i < p.notes.length; i += every) {
        const way = noteWay(p, s, i);
        expect(way.now).toBe(facts.now[i]);
        const sum = way.steps.reduce((ms, step) => ms + step.ms, way.playedMs);
        // Whole ticks: up to one is rounded away at the end, which is no step. Beside a change of tempo it is told in ticks.
        expect(Math.abs(tempo.shift(way.line, sum) - way.now)).toBeLessThanOrEqual(1.001);
        expect(tempo.between(way.line, way.now)).toBeCloseTo(way.nowMs, 6);
        for (const step of way.steps) expect(step.offsetMs).toBeCloseTo(tempo.between(way.line, step.start), 6);
      }
    }
  }
}

describe('a note’s way', () => {
  it('adds up for the demo under every recipe', () => {
    const { song: demo } = readSmf(readFileSync('app/public/demo/night-ferry.mid'), 'demo');
    const analyses = new Map(demo.tracks.flatMap((t) => t.parts).map((p) => [p, analysePart(p, demo)]));
    for (const recipe of BUILT_IN_RECIPES) {
      const tracks = demo.tracks.map((t) => ({
        ...t,
        parts: t.parts.map((p) => ({ ...p, treatment: applyRecipe(recipe, p, demo, analyses.get(p)) })),
      }));
      addsUp({ ...demo, tracks }, 37);
    }
  });

  it('adds up for any song under any treatment', () => {
    fc.assert(
      fc.property(anySongAtAll, (s) => addsUp(s)),
      { numRuns: 60 },
    );
  });

  it('tells what each stage did, worked out by hand', () => {
    // 120 BPM: 960 ticks are 500 ms. Played 70 ticks late, 48 ticks (25 ms) of lag, half of the rest, 10 ms ahead.
    const s = song([note(0, 70)], {
      lag: { on: true, amount: { value: 25, unit: 'ms' } },
      quantize: { on: true, strength: 0.5 },
      push: { on: true, amount: { value: 10, unit: 'ms' } },
    });
    const { steps, played, line, now } = noteWay(part(s), s, 0);
    expect([played, line, now]).toEqual([70, 0, 30]);
    expect(steps.map(({ stage, start, left }) => [stage, start, left])).toEqual([
      ['lag', 22, null],
      ['quantize', 11, null],
      ['push', 30.2, null],
    ]);
    expect(steps.map((step) => Math.round(step.ms * 100) / 100)).toEqual([-25, -5.73, 10]);
  });

  it('says why a note was left, moved by hand, pinned or held', () => {
    const at = (notes: Note[], stages: Parameters<typeof song>[1]) => {
      const s = song(notes, stages);
      return noteWay(part(s), s, 0).steps.map(({ stage, left }) => (left ? `${stage}: ${left}` : stage));
    };
    const near = { on: true, tolerance: { value: 10, unit: 'ms' } } as const;
    expect(at([note(0, 10)], { quantize: near })).toEqual(['quantize: close-enough']);
    expect(at([note(0, 100)], { quantize: { on: true, reach: { value: 10, unit: 'ms' } } })).toEqual([
      'quantize: too-far',
    ]);
    expect(at([note(0, 30)], { quantize: { on: true, direction: 'early' } })).toEqual(['quantize: wrong-direction']);
    const moved = note(0, 500, { take: { start: 20, length: 200, velocity: 80 } });
    expect(at([moved], {})).toEqual(['hand']);
    const pinned = note(0, 20, { exception: { kind: 'pinned', start: 900, length: 200, velocity: 80 } });
    expect(at([pinned], { quantize: { on: true } })).toEqual(['pinned']);
    expect(at([note(0, 20, { exception: { kind: 'as-played' } })], { quantize: { on: true } })).toEqual([]);
    expect(at([note(0, 10)], { push: { on: true, amount: { value: -50, unit: 'ms' } } })).toEqual(['push', 'settle']);
  });
});
