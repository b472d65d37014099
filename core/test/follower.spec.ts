import { parseGrid } from '@early-sparrow/core/grid';
import { outdate, type Song } from '@early-sparrow/core/song';
import { followLines } from '@early-sparrow/core/follow';
import { factsOf, followBy, treatPart, type FollowedLines, type Follower } from '@early-sparrow/core/treatment';
import { note, part, song, treated } from './build';

/** A take that slowly rushes by more than half a step. */
const rushing = song(
  Array.from({ length: 200 }, (_, i) =>
    note(i, Math.max(0, i * 240 - Math.round(i * 1.1)), { length: 60, pitch: 50 + (i % 9) }),
  ),
);
const follow = { on: true, grid: parseGrid('1/16'), lines: 'follow' as const };
const of = (s: Song) => treatPart(part(s), s);

describe('lines that follow the player', () => {
  afterEach(() => followBy(null));

  it('are not found again for another strength, tolerance, reach or direction', () => {
    let asked = 0;
    followBy((place, lines, time, { grid }) => {
      asked++;
      return followLines(place, lines, time, grid);
    });
    for (const strength of [0.2, 0.7, 1]) {
      for (const value of [0, 5, 9])
        of(
          treated(rushing, {
            quantize: { ...part(rushing).treatment.quantize, ...follow, strength, tolerance: { value, unit: 'ms' } },
          }),
        );
    }
    expect(asked).toBe(1);
    of(treated(rushing, { quantize: { ...part(rushing).treatment.quantize, ...follow, grid: parseGrid('1/8') } }));
    of(
      treated(rushing, {
        quantize: { ...part(rushing).treatment.quantize, ...follow },
        lag: { on: true, amount: { value: 5, unit: 'ms' } },
      }),
    );
    expect(asked).toBe(3);
  });

  it('are the nearest until they are known, and what was computed meanwhile is computed anew', () => {
    const answers = new WeakMap<Float64Array, FollowedLines>();
    const waiting: (() => void)[] = [];
    const asked = new Set<Float64Array>();
    const later: Follower = (place, lines, time, { grid }) => {
      const known = answers.get(place);
      if (known) return known;
      if (!asked.has(place)) waiting.push(() => answers.set(place, followLines(place, lines, time, grid)));
      asked.add(place);
      return null;
    };
    const s = treated(rushing, { quantize: { ...part(rushing).treatment.quantize, ...follow } });
    const wanted = [...of(s).start];
    const nearest = treated(rushing, {
      quantize: { ...part(rushing).treatment.quantize, ...follow, lines: 'nearest' },
    });
    followBy(later);
    // Notes of their own: nothing is known of them.
    const fresh: Song = { ...s, tracks: [{ ...s.tracks[0], parts: [{ ...part(s), notes: [...part(s).notes] }] }] };
    expect([...of(fresh).start]).toEqual([...of(nearest).start]);
    const before = factsOf(part(fresh), fresh);
    expect(waiting).toHaveLength(1);
    waiting[0]();
    expect(factsOf(part(fresh), fresh)).toBe(before);
    outdate();
    expect([...of(fresh).start]).toEqual(wanted);
    expect(factsOf(part(fresh), fresh)).not.toBe(before);
    expect(waiting).toHaveLength(1);
  });
});
