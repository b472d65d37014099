import fc from 'fast-check';
import { AlignedLines, gridLines, parseGrid } from '@early-sparrow/core/grid';
import {
  followedBy,
  newPart,
  newSong,
  newTrack,
  timeOf,
  type Part,
  type Song,
  type Treatment,
} from '@early-sparrow/core/song';
import { correctedTrack, factsOf, referencePlaces, treatPart } from '@early-sparrow/core/treatment';
import { note, treatment } from './build';

const time = timeOf(newSong('Times'));
const sixteenths = () => gridLines(parseGrid('1/16'), time);

/** A song with a part a track; each part has its notes' starts and the treatment's quantize settings. */
function band(...players: { starts: number[]; quantize?: Partial<Treatment['quantize']> }[]): Song {
  const tracks = players.map(({ starts, quantize }, k) => {
    const notes = starts.map((start, i) => note(k * 1000 + i, start, { channel: k, length: 100 }));
    const stages = quantize ? { quantize: { on: true, ...quantize } } : {};
    return newTrack(`t${k}`, `Track ${k}`, {
      parts: [newPart(`p${k}`, 'Part', 0, 9600, { notes, treatment: treatment(stages) })],
    });
  });
  return { ...newSong('Band'), tracks, nextId: players.length * 1000 };
}

const partOf = (song: Song, k: number): Part => song.tracks[k].parts[0];
const starts = (song: Song, k: number) => [...treatPart(partOf(song, k), song).start];
const withTrack = (k: number, as: 'played' | 'corrected' = 'corrected') => ({ with: { track: `t${k}`, as } });

describe('lines that go by another player', () => {
  it('are that player’s places where they are near, and the grid’s elsewhere', () => {
    const lines = new AlignedLines(sixteenths(), [250, 700, 1320], time.tempo);
    // 1320 lies in the middle between two lines: it is near neither.
    expect(lines.between(0, 1500)).toEqual([0, 250, 480, 700, 960, 1200, 1440]);
    expect(lines.nearest(245)).toBe(250);
    expect(lines.nearest(120)).toBe(0);
    expect(lines.gapAt(300)).toBe(230);
  });

  it('stay in order, as many as before, and each place has one before and one after it', () => {
    const places = fc.array(fc.integer({ min: 0, max: 8000 }), { maxLength: 60 }).map((a) => a.sort((x, y) => x - y));
    fc.assert(
      fc.property(
        places,
        fc.constantFrom('1/16', '1/8T', '1/16+1/8T', '1/8 ~62%'),
        fc.double({ min: 0, max: 7000, noNaN: true }),
        (list, text, t) => {
          const plain = gridLines(parseGrid(text), time);
          const lines = new AlignedLines(gridLines(parseGrid(text), time), list, time.tempo);
          const all = lines.between(0, 9600);
          expect(Math.abs(all.length - plain.between(0, 9600).length)).toBeLessThanOrEqual(1);
          for (let i = 1; i < all.length; i++) expect(all[i]).toBeGreaterThan(all[i - 1]);
          lines.locate(t);
          expect(lines.before <= t).toBe(true);
          expect(lines.after).toBeGreaterThan(t);
        },
      ),
    );
  });

  it('take notes to the other player’s, with strength, tolerance and offsets against them', () => {
    const kit = [20, 260, 500, 740];
    const song = band({ starts: kit }, { starts: [30, 275, 480, 960], quantize: withTrack(0) });
    expect(starts(song, 1)).toEqual([20, 260, 500, 960]);
    const half = band({ starts: kit }, { starts: [30, 275, 480, 960], quantize: { ...withTrack(0), strength: 0.5 } });
    expect(starts(half, 1)).toEqual([25, 268, 490, 960]);
    const loose = { ...withTrack(0), tolerance: { value: 12, unit: 'ticks' as const } };
    expect(starts(band({ starts: kit }, { starts: [30, 275, 480, 960], quantize: loose }), 1)).toEqual([
      30, 260, 500, 960,
    ]);
    // 10 ticks at 120 BPM and 960 PPQ are 5.2 ms.
    expect(factsOf(partOf(song, 1), song).chords.before[0]).toBeCloseTo((10 * 500) / 960, 6);
  });

  it('go by the other player as corrected or as played, and change with their treatment', () => {
    const players = (as: 'played' | 'corrected', strength: number) =>
      band({ starts: [20, 260, 500], quantize: { strength } }, { starts: [30, 275, 480], quantize: withTrack(0, as) });
    expect(starts(players('corrected', 1), 1)).toEqual([0, 240, 480]);
    expect(starts(players('played', 1), 1)).toEqual([20, 260, 500]);
    // The same part again, in a song where only the other track is another one.
    const before = players('corrected', 1);
    const [kit, bass] = before.tracks;
    starts(before, 1);
    correctedTrack(bass, before);
    const softer = {
      ...kit,
      parts: [{ ...kit.parts[0], treatment: treatment({ quantize: { on: true, strength: 0.5 } }) }],
    };
    const after = { ...before, tracks: [softer, bass] };
    expect(starts(after, 1)).toEqual([10, 250, 490]);
    expect(correctedTrack(bass, after).notes.map((n) => n.start)).toEqual([10, 250, 490]);
    expect(starts(before, 1)).toEqual([0, 240, 480]);
  });

  it('of two who go by each other, and of three in a circle, each goes by the other as played', () => {
    const two = band({ starts: [20, 260], quantize: withTrack(1) }, { starts: [30, 280], quantize: withTrack(0) });
    expect([starts(two, 0), starts(two, 1)]).toEqual([
      [30, 280],
      [20, 260],
    ]);
    const three = band(
      { starts: [20], quantize: withTrack(1) },
      { starts: [30], quantize: withTrack(2) },
      { starts: [40], quantize: withTrack(0) },
    );
    expect([0, 1, 2].map((k) => starts(three, k))).toEqual([[30], [40], [20]]);
  });

  it('are the grid’s where the track is gone, is the part’s own, or makes no sound', () => {
    const own = band({ starts: [20, 260], quantize: withTrack(0) });
    expect(starts(own, 0)).toEqual([0, 240]);
    const gone = band({ starts: [20, 260], quantize: withTrack(7) });
    expect(starts(gone, 0)).toEqual([0, 240]);
    const song = band({ starts: [250] }, { starts: [260], quantize: withTrack(0) });
    const silent = { ...song.tracks[0], parts: [{ ...partOf(song, 0), muted: true }] };
    expect(starts({ ...song, tracks: [silent, song.tracks[1]] }, 1)).toEqual([240]);
  });

  it('are asked for once, however often the follower is another', () => {
    const song = band(
      { starts: [20, 260, 500] },
      { starts: [30, 275, 480], quantize: { ...withTrack(0), lines: 'follow' } },
    );
    const asked: Float64Array[] = [];
    for (let more = 0; more < 3; more++) {
      const follower = (place: Float64Array) => {
        if (!asked.includes(place)) asked.push(place);
        return null;
      };
      starts(followedBy(song, follower), 1);
    }
    expect(asked).toHaveLength(1);
  });

  it('count notes that start together as one chord, at their median', () => {
    const song = band({ starts: [240, 250, 280, 700] }, { starts: [0] });
    expect([...(referencePlaces({ track: 't0', as: 'played' }, song.tracks[1], song) ?? [])]).toEqual([250, 700]);
  });
});
