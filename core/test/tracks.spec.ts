import fc from 'fast-check';
import {
  duplicateTrack,
  isProblem,
  mergeTracks,
  moveTrack,
  removeTracks,
  splitTrack,
  startHistory,
  doEdit,
  undo,
  wayTo,
  type Edit,
  type EditProblem,
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
