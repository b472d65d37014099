import fc from 'fast-check';
import { newSong, type Song } from '@early-sparrow/core/song';
import { placeText, readPlace } from '../src/common/places';
import { marksOf, markText } from '../src/desk/tempo/marks';

const song = (more: Partial<Song> = {}): Song => ({ ...newSong('Any'), ...more });
const us = (bpm: number) => Math.round(60e6 / bpm);

describe('the marks of a song', () => {
  it('begin with the tempo and the meter that hold at its start, whether a file said them or not', () => {
    expect(marksOf(song()).map(markText)).toEqual(['120 BPM', '4/4']);
    const told = song({
      tempo: [{ tick: 0, usPerQuarter: us(96.5) }],
      meter: [{ tick: 3840, numerator: 3, denominator: 4, clocks: 24, thirtySeconds: 8 }],
      markers: [{ tick: 3840, name: 'Verse' }],
    });
    expect(marksOf(told).map((m) => [m.at, markText(m)])).toEqual([
      [0, '96.5 BPM'],
      [0, '4/4'],
      [3840, '3/4'],
      [3840, 'Verse'],
    ]);
  });

  it('show many changes close together as one that moves, and a few as they are', () => {
    const every = (gap: number, count: number) =>
      Array.from({ length: count }, (_, i) => ({ tick: 960 + i * gap, usPerQuarter: us(100 + i) }));
    const [, , ramp] = marksOf(song({ tempo: every(240, 21) }));
    expect(markText(ramp)).toBe('100 → 120 BPM');
    expect(ramp).toMatchObject({ at: 960, run: { to: 960 + 20 * 240, count: 21 } });
    expect(marksOf(song({ tempo: every(240, 3) })).filter((m) => m.kind === 'tempo')).toHaveLength(4);
    expect(marksOf(song({ tempo: every(3840, 9) })).filter((m) => m.kind === 'tempo')).toHaveLength(10);
  });
});

describe('places as text', () => {
  const times = song({ meter: [{ tick: 7680, numerator: 7, denominator: 8, clocks: 12, thirtySeconds: 8 }] });

  it('are read as they are written, in any meter', () => {
    fc.assert(
      fc.property(fc.nat(400), (sixteenths) => {
        const tick = sixteenths * 240;
        expect(readPlace(times, placeText(times, tick))).toBe(tick);
      }),
    );
  });

  it('may leave out what is one', () => {
    expect(readPlace(times, '3')).toBe(7680);
    expect(readPlace(times, ' 3.7 ')).toBe(7680 + 6 * 480);
  });

  it.each(['', 'x', '0', '1.5', '3.8', '3.1.3', '-1', '1.0', '1e9'])('“%s” is no place', (text) => {
    expect(readPlace(times, text)).toBeNull();
  });
});
