import fc from 'fast-check';
import {
  addPart,
  applyEdit,
  copyParts,
  cutParts,
  duplicateTrack,
  isProblem,
  joinParts,
  lookParts,
  mergeTracks,
  moveParts,
  moveTrack,
  removeParts,
  removeTracks,
  repeatParts,
  resizePart,
  splitTrack,
  startHistory,
  doEdit,
  undo,
  wayTo,
  type Edit,
  type EditProblem,
  type Over,
} from '@early-sparrow/core/edit';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { contentsOf, songFault, type Note, type Song } from '@early-sparrow/core/song';
import { perform } from '@early-sparrow/core/treatment';
import { anySongAtAll } from './any';
import { applied, note, song, withEvents } from './build';
import { twoTracks } from './make-edits';

const json = (s: Song) => JSON.stringify(s);
const bytes = (s: Song) => writeSmf(s, perform(s, 'corrected'));
/** What was played, whichever track it is in. */
const played = (s: Song) =>
  s.tracks
    .flatMap((t) => t.parts.flatMap((p) => contentsOf(p).flatMap((c) => c.notes)))
    .map(({ start, length, pitch, velocity, channel }: Note) => [start, pitch, channel, length, velocity].join(' '))
    .sort();

/** A song after an edit that has to fit: it is sound, can be written and read, and undo leaves what was there. */
function done(s: Song, edit: Edit | EditProblem | null): Song {
  if (edit === null || isProblem(edit)) throw new Error(edit?.problem ?? 'Nothing to do.');
  const { song: after, inverse } = applied(s, edit);
  expect(songFault(after)).toBeNull();
  expect(() => readSmf(bytes(after), 'after')).not.toThrow();
  expect(json(applied(after, inverse).song)).toBe(json(s));
  return after;
}

const SPLIT = { channel: (c: number) => `channel ${c + 1}`, key: (k: number) => `key ${k}` };

describe('tracks', () => {
  it('of any song are duplicated, split, merged, moved and deleted: nothing is lost, undo is exact', () => {
    fc.assert(
      fc.property(anySongAtAll, fc.nat(), fc.constantFrom<'channel' | 'key'>('channel', 'key'), (s, n, by) => {
        const track = s.tracks[n % s.tracks.length];
        const twice = done(s, duplicateTrack(s, track.id));
        expect(twice.tracks).toHaveLength(s.tracks.length + 1);
        const split = splitTrack(s, track.id, { by, nameOf: SPLIT[by] });
        if (!isProblem(split)) {
          const apart = done(s, split);
          expect(played(apart)).toEqual(played(s));
          const ids = apart.tracks.filter((t) => !s.tracks.some((o) => o.id === t.id)).map((t) => t.id);
          const back = mergeTracks(apart, ids);
          if (!isProblem(back)) expect(played(done(apart, back))).toEqual(played(s));
        }
        const all = mergeTracks(
          s,
          s.tracks.map((t) => t.id),
        );
        if (!isProblem(all)) expect(played(done(s, all))).toEqual(played(s));
        expect(done(s, removeTracks(s, [track.id])).tracks).toHaveLength(s.tracks.length - 1);
        const listed = s.tracks.map((t) => t.id);
        const down = moveTrack(s, listed, track.id, 1);
        if (down) expect(done(s, down).tracks.indexOf(track)).toBe(listed.indexOf(track.id) + 1);
      }),
      { numRuns: 150 },
    );
  });

  it('that are split by channel take their bends along, and sound as one track did when they are put together', () => {
    const bend = (tick: number, channel: number) => ({ type: 'bend', tick, channel, value: 100 * channel }) as const;
    const two = withEvents(
      song(
        [0, 1, 2, 3].map((i) => note(i, i * 480 + 10, { channel: i % 2, pitch: 60 + i })),
        { quantize: { on: true } },
      ),
      [bend(100, 0), bend(600, 1), bend(700, 7)],
    );
    const [{ id, name }] = two.tracks;
    const apart = done(two, splitTrack(two, id, { by: 'channel', nameOf: SPLIT.channel }));
    expect(apart.tracks.map((t) => t.name)).toEqual([`${name} channel 1`, `${name} channel 2`]);
    expect(apart.tracks.map((t) => t.parts[0].events.map((e) => e.channel))).toEqual([[0, 7], [1]]);
    const one = done(
      apart,
      mergeTracks(
        apart,
        apart.tracks.map((t) => t.id),
      ),
    );
    const notes = (s: Song) =>
      readSmf(bytes(s), 'x').song.tracks.flatMap((t) =>
        t.parts.flatMap((p) => p.notes.map((n) => [n.start, n.length])),
      );
    expect(notes(one)).toEqual(notes(two));
  });

  it('that cannot be split or merged say why', () => {
    const s = twoTracks();
    expect(splitTrack(s, s.tracks[0].id, { by: 'channel', nameOf: String })).toMatchObject({
      problem: expect.stringContaining('nothing to split') as string,
    });
    expect(mergeTracks(s, [s.tracks[0].id])).toMatchObject({
      problem: expect.stringContaining('two or more') as string,
    });
    expect(moveTrack(s, [s.tracks[0].id], s.tracks[0].id, 1)).toBeNull();
  });
});

describe('parts', () => {
  const anyWish = fc.record({
    which: fc.array(fc.nat(6), { minLength: 1, maxLength: 3 }),
    by: fc.integer({ min: -6000, max: 9000 }),
    rows: fc.integer({ min: -2, max: 2 }),
    over: fc.constantFrom<Over>('refuse', 'cut', 'push'),
    what: fc.constantFrom('move', 'copy', 'repeat', 'cut', 'join', 'remove', 'look', 'resize'),
  });
  type Wish = typeof anyWish extends fc.Arbitrary<infer T> ? T : never;
  const make = (s: Song, { which, by, rows, over, what }: Wish): Edit | EditProblem | null => {
    const parts = s.tracks.flatMap((t) => t.parts);
    if (parts.length === 0) return null;
    const ids = [...new Set(which.map((n) => parts[n % parts.length].id))];
    const move = { by, rows, listed: s.tracks.map((t) => t.id) };
    switch (what) {
      case 'move':
        return moveParts(s, ids, move, over);
      case 'copy':
        return copyParts(s, ids, move, over);
      case 'repeat':
        return repeatParts(s, ids, 1 + Math.abs(rows), over);
      case 'cut':
        return cutParts(s, ids, Math.abs(by));
      case 'join':
        return joinParts(s, ids);
      case 'remove':
        return removeParts(s, ids);
      case 'look':
        return lookParts(s, ids, { name: 'verse', muted: by > 0 });
      default:
        return resizePart(s, ids[0], { start: 0, end: 9000 + by });
    }
  };
  const sounds = (s: Song) =>
    s.tracks.flatMap((t) => t.parts.flatMap((p) => p.notes.map((n) => `${n.pitch} ${n.velocity} ${n.length}`))).sort();

  it('are moved, copied, repeated, cut, joined and deleted: the song is sound, undo exact, no note lost unasked', () => {
    let made = 0;
    fc.assert(
      fc.property(
        fc.array(anyWish, { minLength: 1, maxLength: 6 }),
        fc.boolean(),
        anySongAtAll,
        (wishes, two, other) => {
          let s = two ? twoTracks() : other;
          for (const wish of wishes) {
            const edit = make(s, wish);
            const after = edit === null || isProblem(edit) ? null : applyEdit(s, edit);
            if (edit === null || after === null || isProblem(after)) continue;
            made++;
            const before = s;
            s = done(s, edit);
            const keeps = wish.over !== 'cut' && ['move', 'cut', 'join', 'look', 'resize'].includes(wish.what);
            if (keeps) expect(sounds(s)).toEqual(sounds(before));
            if (['copy', 'repeat'].includes(wish.what) && wish.over !== 'cut') {
              expect(sounds(s).length).toBeGreaterThanOrEqual(sounds(before).length);
            }
          }
        },
      ),
      { numRuns: 250 },
    );
    expect(made).toBeGreaterThan(200);
  });

  it('that come to lie on others: refused, the others cut, or pushed behind, as is wished', () => {
    const s = twoTracks();
    const [a, b] = s.tracks[0].parts;
    const move = { by: b.start - a.start - 480, rows: 0, listed: s.tracks.map((t) => t.id) };
    const spans = (after: Song) => after.tracks[0].parts.map((p) => [p.id === a.id ? 'a' : 'b', p.start, p.end]);
    const [start, end] = [a.start + move.by, a.end + move.by];
    expect(isProblem(moveParts(s, [a.id], move, 'refuse') ?? {})).toBe(true);
    const cut = done(s, moveParts(s, [a.id], move, 'cut'));
    expect(spans(cut)).toEqual([
      ['a', start, end],
      ['b', end, b.end],
    ]);
    const pushed = done(s, moveParts(s, [a.id], move, 'push'));
    expect(spans(pushed)).toEqual([
      ['a', start, end],
      ['b', end, end + b.end - b.start],
    ]);
    // What is pushed takes the place that the part leaves.
    const swapped = done(pushed, moveParts(pushed, [b.id], { ...move, by: start - end }, 'push'));
    expect(swapped.tracks[0].parts.map((p) => p.id)).toEqual([b.id, a.id]);
    // A group stops at the song's start as one.
    const ahead = done(s, moveParts(s, [a.id, b.id], { ...move, by: 9600 }, 'refuse'));
    const back = done(ahead, moveParts(ahead, [a.id, b.id], { ...move, by: -1e6 }, 'refuse'));
    const [x, y] = back.tracks[0].parts;
    expect(y.start - x.start).toBe(b.start - a.start);
    expect(x.start).toBeLessThan(9600);
    // A part without notes that is resized to a place before another one stands before it then.
    const empty = done(s, addPart(s, s.tracks[0].id, 'New', 40_000, 44_000));
    const later = done(empty, moveParts(empty, [a.id, b.id], { ...move, by: 9600 }, 'refuse'));
    const id = later.tracks[0].parts.at(-1)?.id ?? '';
    expect(done(later, resizePart(later, id, { start: 0, end: 4000 })).tracks[0].parts[0].id).toBe(id);
    expect(moveParts(s, ['nobody'], move, 'refuse')).toBeNull();
    expect(repeatParts(s, [a.id], 1e6, 'push')).toMatchObject({ problem: expect.stringContaining('2,000') as string });
  });
});

describe('the way to another step', () => {
  it('as one edit gives the song that going there gives, back and forth', () => {
    fc.assert(
      fc.property(anySongAtAll, fc.array(fc.nat(4), { minLength: 1, maxLength: 8 }), fc.nat(8), (s, steps, back) => {
        let history = startHistory(s);
        for (const n of steps) {
          const { tracks } = history.song;
          const id = tracks.at(n % Math.max(1, tracks.length))?.id ?? '';
          const edit = n < 2 ? duplicateTrack(history.song, id) : removeTracks(history.song, [id]);
          const next = edit === null || isProblem(edit) ? history : doEdit(history, edit);
          if (!isProblem(next)) history = next;
        }
        const by = Math.min(back, history.undo.length);
        let gone = history;
        for (let n = 0; n < by; n++) gone = undo(gone);
        const there = wayTo(history, -by);
        expect(json(there ? applied(history.song, there).song : history.song)).toBe(json(gone.song));
        const again = wayTo(gone, by);
        expect(json(again ? applied(gone.song, again).song : gone.song)).toBe(json(history.song));
        expect(wayTo(history, -history.undo.length - 1)).toBeNull();
      }),
      { numRuns: 100 },
    );
  });
});
