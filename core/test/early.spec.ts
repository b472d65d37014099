import fc from 'fast-check';
import {
  copyParts,
  cutBars,
  cutParts,
  insertBars,
  isProblem,
  joinParts,
  moveParts,
  partsStop,
  repeatParts,
  type Edit,
  type EditProblem,
  type Over,
} from '@early-sparrow/core/edit';
import { move } from '@early-sparrow/core/shape';
import { leadTo } from '@early-sparrow/core/sound';
import { newPart, songFault, type Part, type Song } from '@early-sparrow/core/song';
import { applied, note, part, song, withEvents, type Stages } from './build';

const BAR = 3840;
/** A note on a sixteenth, one on the 32nd before bar 2, the first of bar 2 that was played early, and one behind it. */
const [SIXTEENTH, ORNAMENT, EARLY, BEHIND] = [0, 1, 2, 3];
const played = (early: number, stages: Stages = {}): Song =>
  song(
    [
      note(SIXTEENTH, BAR - 240),
      note(ORNAMENT, BAR - 120, { pitch: 62 }),
      note(EARLY, BAR - early, { pitch: 64 }),
      note(BEHIND, BAR + 240),
    ],
    stages,
  );

/** A song after an edit that has to fit: it is sound, and undo and redo are exact. */
function done(s: Song, edit: Edit | EditProblem | null): Song {
  if (edit === null || isProblem(edit)) throw new Error(edit?.problem ?? 'Nothing to do.');
  const { song: after, inverse } = applied(s, edit);
  expect(songFault(after)).toBeNull();
  const back = applied(after, inverse);
  expect(back.song).toEqual({ ...s, nextId: expect.any(Number) as number });
  expect(applied(back.song, back.inverse).song).toEqual(after);
  return after;
}

const ids = (p: Part | undefined) => p?.notes.map((n) => n.id);
const sides = (s: Song) => s.tracks[0].parts.map(ids);
const cutAt = (s: Song, at: number) => done(s, cutParts(s, ['p'], at));

describe('a note that was played early for a line', () => {
  it.each([1, 40, 119])('goes with the bar where a part is cut, %s ticks before it', (early) => {
    const after = cutAt(played(early), BAR);
    expect(sides(after)).toEqual([
      [SIXTEENTH, ORNAMENT],
      [EARLY, BEHIND],
    ]);
    expect(after.tracks[0].parts.map((p) => [p.start, p.end])).toEqual([
      [0, BAR],
      [BAR, expect.any(Number)],
    ]);
  });

  it('goes with any line of the part, a swung one too; off the lines its start decides', () => {
    const swung = { quantize: { grid: { ...part(played(0)).treatment.quantize.grid, swing: 0.66 } } };
    const near = song([note(0, 300), note(1, 316 - 20), note(2, 470)], swung);
    expect(sides(cutAt(near, 317))).toEqual([[], [1, 0, 2]]);
    expect(sides(cutAt(played(40), BAR + 60))).toEqual([[SIXTEENTH, ORNAMENT, EARLY], [BEHIND]]);
    expect(sides(cutAt(played(40), BAR - 20))).toEqual([[SIXTEENTH, ORNAMENT, EARLY], [BEHIND]]);
  });

  it('goes with the bar where a groove or a shift puts the line beside it, and not where no line is near', () => {
    const { grid } = part(played(0)).treatment.quantize;
    const cut = (more: Partial<typeof grid>) =>
      sides(
        cutAt(
          song([note(0, BAR - 110), note(1, BAR - 70), note(2, BAR + 960)], {
            quantize: { grid: { ...grid, ...more } },
          }),
          BAR,
        ),
      );
    expect(cut({ shift: { value: -20, unit: 'ticks' } })).toEqual([[], [0, 1, 2]]);
    expect(cut({ shift: { value: 40, unit: 'ticks' } })).toEqual([[0], [1, 2]]);
    expect(cut({ value: 2, shape: 'dotted', restart: 'song' })).toEqual([[0, 1], [2]]);
  });

  it('is told from a late one by the lag of the part', () => {
    const late = (on: boolean) => song([note(0, BAR - 100)], { lag: { on, amount: { value: 60, unit: 'ticks' } } });
    expect(sides(cutAt(late(false), BAR))).toEqual([[], [0]]);
    expect(sides(cutAt(late(true), BAR))).toEqual([[0], []]);
  });

  it('may be as early as its treatment brings it to the line, up to a sixteenth', () => {
    const grid = { ...part(played(0)).treatment.quantize.grid, value: 8 as const };
    const one = (early: number, on: boolean) =>
      song([note(0, BAR - early), note(1, BAR + 960)], { quantize: { on, grid } });
    expect(sides(cutAt(one(200, true), BAR))).toEqual([[], [0, 1]]);
    expect(sides(cutAt(one(200, false), BAR))).toEqual([[0], [1]]);
    expect(sides(cutAt(one(241, true), BAR))).toEqual([[0], [1]]);
  });

  it('takes what is held with it; cut and joined again all is what it was', () => {
    const s = withEvents(played(40), [
      { type: 'controller', tick: 100, channel: 0, controller: 64, value: 127, order: 1 },
      { type: 'bend', tick: BAR - 50, channel: 0, value: 300, order: 2 },
      { type: 'bend', tick: BAR - 30, channel: 0, value: 500, order: 3 },
      { type: 'controller', tick: BAR + 400, channel: 0, controller: 64, value: 0, order: 4 },
    ]);
    const cut = cutAt(s, BAR);
    const held = (p: Part) => p.events.map((e) => [e.type, e.tick, 'value' in e ? e.value : 0]);
    expect(cut.tracks[0].parts.map(held)).toEqual([
      [
        ['controller', 100, 127],
        ['bend', BAR - 50, 300],
        ['controller', BAR - 40, 0],
        ['bend', BAR - 40, 0],
      ],
      [
        ['controller', BAR - 40, 127],
        ['bend', BAR - 40, 300],
        ['bend', BAR - 30, 500],
        ['controller', BAR + 400, 0],
      ],
    ]);
    const joined = done(
      cut,
      joinParts(
        cut,
        cut.tracks[0].parts.map((p) => p.id),
      ),
    );
    expect(joined.tracks).toEqual(s.tracks);
  });

  it('is told in the takes that are not chosen, too', () => {
    const s = played(0);
    const takes = {
      chosen: { id: 'r10', name: 'Take 2' },
      others: [{ id: 'r11', name: 'Take 1', notes: [note(12, BAR - 130), note(13, BAR - 60)], events: [] }],
    };
    const two = { ...s, nextId: 20, tracks: [{ ...s.tracks[0], parts: [{ ...part(s), takes }] }] };
    const [left, right] = cutAt(two, BAR).tracks[0].parts;
    expect([left, right].map((p) => p.takes?.others[0].notes.map((n) => n.id))).toEqual([[12], [13]]);
  });

  it('stays with its bar where bars are inserted before it, or cut out', () => {
    const places = (s: Song) => s.tracks[0].parts.flatMap((p) => p.notes.map((n) => [n.id, n.start]));
    const s = song([note(0, 0), note(1, BAR - 30), note(2, BAR + 960), note(3, 2 * BAR - 30), note(4, 2 * BAR + 960)]);
    expect(places(done(s, insertBars(s, 2, 1)))).toEqual([
      [0, 0],
      [1, 2 * BAR - 30],
      [2, 2 * BAR + 960],
      [3, 3 * BAR - 30],
      [4, 3 * BAR + 960],
    ]);
    expect(places(done(s, cutBars(s, 2, 1)))).toEqual([
      [0, 0],
      [3, BAR - 30],
      [4, BAR + 960],
    ]);
    expect(places(done(s, cutBars(s, 1, 1)))).toEqual([
      [1, 0],
      [2, 960],
      [3, BAR - 30],
      [4, BAR + 960],
    ]);
  });

  it.each<[Over, (number[] | undefined)[]]>([
    ['cut', [[0], [8], [3, 4]]],
    ['push', [[0], [8], [1, 2, 3, 4]]],
  ])('goes, stays or is pushed with its bar where a part comes over it: %s', (over, expected) => {
    const s = song([note(0, 0), note(1, BAR - 30), note(2, BAR + 960), note(3, 2 * BAR - 30), note(4, 2 * BAR + 960)]);
    const other = newPart('p9', 'Other', 4 * BAR, 5 * BAR, { notes: [note(8, 4 * BAR + 100)] });
    const two = { ...s, nextId: 10, tracks: [{ ...s.tracks[0], parts: [{ ...part(s), end: 3 * BAR }, other] }] };
    const move = { by: -3 * BAR, rows: 0, listed: ['t'] };
    expect(sides(done(two, moveParts(two, ['p9'], move, over)))).toEqual(expected);
  });

  it('in any part on a straight grid lies on the side of its line', () => {
    const anyNotes = fc.array(fc.nat(4 * BAR), { maxLength: 60 });
    fc.assert(
      fc.property(anyNotes, fc.integer({ min: 1, max: 3 }), (starts, bar) => {
        const at = bar * BAR;
        const s = song(
          [...new Set(starts), 4 * BAR].map((start, id) => note(id, start)),
          { quantize: { on: true } },
        );
        const [left, right] = cutAt(s, at).tracks[0].parts;
        const line = (start: number) => Math.floor(start / 240 + 0.5) * 240;
        // Exactly halfway a note may be either's.
        const sure = ({ start }: { start: number }) => start % 240 !== 120;
        for (const n of left.notes.filter(sure)) expect(line(n.start)).toBeLessThan(at);
        for (const n of right.notes.filter(sure)) expect(line(n.start)).toBeGreaterThanOrEqual(at);
        expect(left.notes.length + right.notes.length).toBe(part(s).notes.length);
      }),
    );
  });
});

describe('a part whose first note was early', () => {
  const lone = newPart('p', 'Part', BAR, 2 * BAR, { notes: [note(0, BAR - 40), note(1, BAR + 960)] });
  const s: Song = { ...song([]), tracks: [{ ...song([]).tracks[0], parts: [lone] }], nextId: 10 };
  const back = { by: -9 * BAR, rows: 0, listed: ['t'] };

  it('goes to the song’s start whole: the note begins with the song', () => {
    expect(partsStop(s, ['p'], back).ticks).toBe(-BAR);
    const moved = part(done(s, moveParts(s, ['p'], back, 'refuse')));
    expect([moved.start, moved.end, ...moved.notes.map((n) => n.start)]).toEqual([0, BAR, 0, 960]);
    const near = part(done(s, moveParts(s, ['p'], { ...back, by: -BAR + 10 }, 'push')));
    expect([near.start, ...near.notes.map((n) => n.start)]).toEqual([10, 0, 970]);
  });

  it('is copied there too, and stays as it was', () => {
    const [copy, own] = done(s, copyParts(s, ['p'], back, 'refuse')).tracks[0].parts;
    expect([copy.start, copy.end, ...copy.notes.map((n) => n.start)]).toEqual([0, BAR, 0, 960]);
    expect(own).toEqual(lone);
  });

  it('stops before where something in it lies further ahead', () => {
    const nudged = { ...note(0, BAR + 10), take: { start: BAR - 500, length: 200, velocity: 80 } };
    const other = { ...s, tracks: [{ ...s.tracks[0], parts: [{ ...lone, notes: [nudged, lone.notes[1]] }] }] };
    expect(partsStop(other, ['p'], back).ticks).toBe(-BAR + 500);
  });
});

describe('a part whose notes are moved by hand over its border', () => {
  const lone = newPart('p', 'Part', BAR, 2 * BAR, { notes: [note(0, BAR), note(1, BAR + 960)], on: false });
  const s: Song = { ...song([]), tracks: [{ ...song([]).tracks[0], parts: [lone] }], nextId: 10 };
  const nudged = (of: Song, id: number, ticks: number) =>
    done(of, move(of, of.tracks[0], [id], 'played', { ticks, rows: 0, pitches: [] }));
  const span = (of: Song) => [part(of).start, part(of).end, ...part(of).notes.map((n) => n.start)];

  it('keeps its bars: a first note that is a hair early lies before it, so that repeats stay on the bars', () => {
    const early = nudged(s, 0, -10);
    expect(span(early)).toEqual([BAR, 2 * BAR, BAR - 10, BAR + 960]);
    const starts = done(early, repeatParts(early, ['p'], 2, 'refuse')).tracks[0].parts.map((p) => p.start);
    expect(starts).toEqual([BAR, 2 * BAR, 3 * BAR]);
  });

  it('grows to whole bars for what lies further out', () => {
    expect(span(nudged(s, 0, -1000))).toEqual([0, 2 * BAR, BAR - 1000, BAR + 960]);
    expect(span(nudged(s, 1, BAR))).toEqual([BAR, 3 * BAR, BAR, 2 * BAR + 960]);
  });

  it('grows as far as the parts beside it leave room', () => {
    const near = newPart('p8', 'Near', 2.25 * BAR, 4 * BAR);
    const two = { ...s, tracks: [{ ...s.tracks[0], parts: [lone, near] }] };
    expect(span(nudged(two, 1, BAR - 800))).toEqual([BAR, 2.25 * BAR, BAR, 2 * BAR + 160]);
    expect(span(nudged(two, 1, 3 * BAR))).toEqual([BAR, 2.25 * BAR, BAR, 4 * BAR + 960]);
  });
});

describe('playing from a line', () => {
  const s = song([note(0, 0), note(1, BAR - 40), note(2, BAR + 960)], { quantize: { on: true } });
  const every = () => true;
  const delayed = (value: number): Song => ({
    ...s,
    tracks: [{ ...s.tracks[0], delay: { value, unit: 'ms' } }],
  });

  it('begins as much earlier as a note was that was early for it, where that is heard', () => {
    // 40 ticks are 20.83 ms at 120 BPM.
    expect(leadTo(BAR, s, 'played', every)).toBeCloseTo(20.83, 1);
    expect(leadTo(BAR, s, 'corrected', every)).toBe(0);
    expect(leadTo(BAR, s, 'played', () => false)).toBe(0);
    expect(leadTo(BAR + 60, s, 'played', every)).toBe(0);
    expect(leadTo(BAR + 960, s, 'played', every)).toBe(0);
    expect(leadTo(0, s, 'played', every)).toBe(0);
  });

  it('counts the delay of the track', () => {
    expect(leadTo(BAR, delayed(15), 'played', every)).toBeCloseTo(5.83, 1);
    expect(leadTo(BAR, delayed(30), 'played', every)).toBe(0);
    expect(leadTo(BAR, delayed(-30), 'corrected', every)).toBeCloseTo(30, 1);
  });
});
