import { gridLines, parseGrid } from '@early-sparrow/core/grid';
import { followedBy, timeOf, type FollowedLines, type Follower, type Song } from '@early-sparrow/core/song';
import { followLines } from '@early-sparrow/core/follow';
import { factsOf, treatPart } from '@early-sparrow/core/treatment';
import { note, part, song, treated } from './build';

/** A take that slowly rushes by more than half a step. */
const rushing = song(
  Array.from({ length: 200 }, (_, i) =>
    note(i, Math.max(0, i * 240 - Math.round(i * 1.1)), { length: 60, pitch: 50 + (i % 9) }),
  ),
);
const follow = { on: true, grid: parseGrid('1/16'), lines: 'follow' as const };
const of = (s: Song) => treatPart(part(s), s);

const found = (place: Float64Array, { grid }: Parameters<Follower>[1]) =>
  followLines(place, gridLines(grid, timeOf(rushing)), timeOf(rushing), grid);

describe('lines that follow the player', () => {
  it('are not found again for another strength, tolerance, reach or direction', () => {
    let asked = 0;
    const counting: Follower = (place, settings) => {
      asked++;
      return found(place, settings);
    };
    const of = (s: Song) => treatPart(part(s), followedBy(s, counting));
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
    const later: Follower = (place, settings) => {
      const known = answers.get(place);
      if (known) return known;
      if (!asked.has(place)) waiting.push(() => answers.set(place, found(place, settings)));
      asked.add(place);
      return null;
    };
    const s = treated(rushing, { quantize: { ...part(rushing).treatment.quantize, ...follow } });
    const wanted = [...of(s).start];
    const nearest = treated(rushing, {
      quantize: { ...part(rushing).treatment.quantize, ...follow, lines: 'nearest' },
    });
    // Notes of their own, and another part between them: nothing is known of them.
    of(song([note(0, 7)]));
    const own: Song = { ...s, tracks: [{ ...s.tracks[0], parts: [{ ...part(s), notes: [...part(s).notes] }] }] };
    const fresh = followedBy(own, later);
    expect([...of(fresh).start]).toEqual([...of(nearest).start]);
    const before = factsOf(part(fresh), fresh);
    expect(waiting).toHaveLength(1);
    waiting[0]();
    expect(factsOf(part(fresh), fresh)).toBe(before);
    const known = followedBy(own, (place, settings) => later(place, settings));
    expect([...of(known).start]).toEqual(wanted);
    expect(factsOf(part(known), known)).not.toBe(before);
    expect(waiting).toHaveLength(1);
  });
});
