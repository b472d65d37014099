import fc from 'fast-check';
import { bringIn, isProblem, type BroughtTempo, type Edit, type EditProblem } from '@early-sparrow/core/edit';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { meterOf, newSong, songFault, tempoOf, type Song } from '@early-sparrow/core/song';
import { perform } from '@early-sparrow/core/treatment';
import { anySongAtAll } from './any';
import { applied, note, song } from './build';

/** A song after an edit that has to fit: it is sound, can be written and read, and undo leaves what was there. */
function done(s: Song, edit: Edit | EditProblem): Song {
  if (isProblem(edit)) throw new Error(edit.problem);
  const { song: after, inverse } = applied(s, edit);
  expect(songFault(after)).toBeNull();
  readSmf(writeSmf(after, perform(after, 'corrected')), 'any');
  expect(JSON.stringify(applied(after, inverse).song)).toBe(JSON.stringify(s));
  return after;
}

const base = song([note(0, 0), note(1, 960)]);
/** At 60 BPM in 3/4, 480 ticks a quarter, its first notes in bar 2. */
const waltz: Song = {
  ...song([note(0, 1440), note(1, 1920), note(2, 2400)], {}, { ppq: 480 }),
  name: 'Waltz',
  tempo: [{ tick: 0, usPerQuarter: 1_000_000 }],
  meter: [{ tick: 0, numerator: 3, denominator: 4, clocks: 24, thirtySeconds: 8 }],
  markers: [{ tick: 1440, name: 'In' }],
};
const file: Song = {
  ...waltz,
  tracks: waltz.tracks.map((t) => ({ ...t, parts: t.parts.map((p) => ({ ...p, start: 1440 })) })),
};

const startsOf = (s: Song, track: number) => s.tracks[track].parts.flatMap((p) => p.notes.map((n) => n.start));
const secondsOf = (s: Song, track: number) => startsOf(s, track).map((t) => tempoOf(s).toMs(t) / 1000);

describe('a file that comes into a song', () => {
  it('keeps its bars: it is played at the song’s tempo', () => {
    const after = done(base, bringIn(base, file, { at: null, tempo: 'bars' }));
    expect(startsOf(after, 1)).toEqual([2880, 3840, 4800]);
    expect(after.markers).toEqual([{ tick: 2880, name: 'In' }]);
    expect(after.tempo).toEqual(base.tempo);
  });

  it('keeps its seconds: it sounds as fast as it did', () => {
    const after = done(base, bringIn(base, file, { at: null, tempo: 'seconds' }));
    expect(secondsOf(after, 1)).toEqual([3, 4, 5]);
  });

  it('gives the song its tempo and meter from where it begins', () => {
    const after = done(base, bringIn(base, file, { at: 7680, tempo: 'file' }));
    // Its first part begins there, whatever was before it in the file.
    expect(startsOf(after, 1)).toEqual([7680, 8640, 9600]);
    expect(tempoOf(after).bpmAt(7679)).toBe(120);
    expect(tempoOf(after).bpmAt(7680)).toBe(60);
    expect(meterOf(after).tickOfBar(4)).toBe(7680 + 2880);
  });

  it.each<BroughtTempo>(['bars', 'seconds', 'file'])('%s: at the playhead its first part begins there', (tempo) => {
    const after = done(base, bringIn(base, file, { at: 3840, tempo }));
    expect(after.tracks[1].parts[0].start).toBe(3840);
    expect(startsOf(after, 1)[0]).toBe(3840);
  });

  it('any file comes into any song: nothing of the song changes, no note is lost, undo is exact', () => {
    fc.assert(
      fc.property(
        anySongAtAll,
        anySongAtAll,
        fc.option(fc.nat(40_000), { nil: null }),
        fc.constantFrom<BroughtTempo>('bars', 'seconds', 'file'),
        (s, other, at, tempo) => {
          const edit = bringIn(s, other, { at, tempo });
          if (isProblem(edit)) return;
          const after = done(s, edit);
          expect(JSON.stringify(after.tracks.slice(0, s.tracks.length))).toBe(JSON.stringify(s.tracks));
          const count = (song: Song) => song.tracks.flatMap((t) => t.parts.flatMap((p) => p.notes)).length;
          expect(count(after)).toBe(count(s) + count(other));
        },
      ),
      { numRuns: 60 },
    );
  });

  it('without notes there is nothing to bring in', () => {
    expect(bringIn(base, newSong('Empty'), { at: null, tempo: 'bars' })).toEqual({
      problem: '“Empty” has no notes in it.',
    });
  });
});
