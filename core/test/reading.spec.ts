import fc from 'fast-check';
import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf, SmfError, writeSmf } from '@early-sparrow/core/smf';
import {
  byPlace,
  findPart,
  isPedal,
  meterOf,
  noteCount,
  partsOf,
  partStart,
  readText,
  songEnd,
  takeOf,
  tempoOf,
  withPart,
  writeText,
  type Song,
} from '@early-sparrow/core/song';
import { perform } from '@early-sparrow/core/treatment';
import { readDivision } from '../src/smf/division';
import { layOut } from '../src/smf/chunks';
import { readTrack } from '../src/smf/track-reader';
import { hex } from './files';
import { note, part, song, treated, withEvents } from './build';

describe('divisions', () => {
  it.each([
    // a file's ticks a quarter, and the smallest whole number that brings them to 960
    [96, 10],
    [120, 8],
    [192, 5],
    [256, 4],
    [480, 2],
    [960, 1],
    [1024, 1],
    [32767, 1],
    [1, 960],
  ])('%i ticks a quarter are multiplied by %i', (ppq, factor) => {
    expect(readDivision(ppq, 0)).toMatchObject({ ppq, factor, usPerQuarter: null, notice: null });
  });

  it('are left alone where the longest pause would no longer fit a file', () => {
    expect(readDivision(96, 0x0fffffff)).toMatchObject({ factor: 1, notice: { code: 'coarse-ticks' } });
  });

  it.each([
    // frames a second, ticks a frame, and what one tick lasts in ms (source: RP-001, division)
    [24, 4, 1000 / 96],
    [25, 40, 1],
    [29, 80, 1001 / 2400],
    [30, 80, 1000 / 2400],
  ])('%i frames of %i ticks keep every time', (rate, ticks, ms) => {
    const { ppq, usPerQuarter } = readDivision(((0x100 - rate) << 8) | ticks, 0);
    expect((usPerQuarter ?? 0) / 1000 / ppq).toBeCloseTo(ms, 6);
  });

  it('that do not exist are refused', () => {
    for (const bytes of [((0x100 - 26) << 8) | 40, ((0x100 - 25) << 8) | 0])
      expect(() => readDivision(bytes, 0)).toThrow(SmfError);
  });
});

describe('chunks', () => {
  const header = '4D 54 68 64 00 00 00 06 00 01 00 01 00 60';
  const track = '4D 54 72 6B 00 00 00 04 00 FF 2F 00';

  it('are found behind a longer header, in a RIFF wrapper, and between chunks of unknown types', () => {
    expect(layOut(hex(`4D 54 68 64 00 00 00 08 00 01 00 01 00 60 00 00 ${track}`)).tracks).toEqual([
      { start: 24, end: 28 },
    ]);
    const riff = `52 49 46 46 00 00 00 00 52 4D 49 44 64 61 74 61 00 00 00 00 ${header} ${track}`;
    expect(layOut(hex(riff)).tracks).toEqual([{ start: 42, end: 46 }]);
    const odd = layOut(hex(`${header} 58 59 5A 31 00 00 00 02 07 08 ${track}`));
    expect(odd.others).toEqual([{ type: 'XYZ1', data: Uint8Array.of(7, 8) }]);
    expect(odd.tracks).toHaveLength(1);
  });

  it('with a length that lies are cut at the end of the file, with a notice', () => {
    const lying = layOut(hex(`${header} 4D 54 72 6B FF FF FF FF 00 FF 2F 00`));
    expect(lying.tracks).toEqual([{ start: 22, end: 26 }]);
    expect(lying.notices).toMatchObject([{ code: 'truncated', track: 0, offset: 26 }]);
    expect(layOut(hex(`4D 54 68 64 7F FF FF FF 00 01 00 01 00 60 ${track}`)).tracks).toHaveLength(1);
  });

  it('name what is left over', () => {
    expect(layOut(hex(`${header} ${track} 00 01 02`)).notices).toMatchObject([{ code: 'trailing-bytes', offset: 26 }]);
  });
});

describe('a damaged track', () => {
  const readHex = (bytes: string) => readTrack(hex(bytes), { start: 0, end: hex(bytes).length }, 2);
  it.each<[string, string, string, number]>([
    ['an event that is cut off', '00 90 3C 40 10 90', 'truncated', 4],
    ['a meta event longer than the track', '00 FF 01 7F 41', 'truncated', 0],
    ['a quantity that never ends', '80 80 80 80 00 90 3C 40', 'bad-event', 0],
    ['a data byte above 127', '00 90 3C 40 00 90 3C 90', 'bad-event', 4],
    ['a real-time byte', '00 90 3C 40 00 F8', 'bad-event', 4],
    ['a running status that nothing began', '00 3C 40', 'bad-event', 0],
    ['no end of track', '00 90 3C 40', 'no-end-of-track', 4],
    ['bytes after its end', '00 FF 2F 00 00 90 3C 40', 'after-end-of-track', 4],
  ])('with %s keeps what is before it and says where', (_, bytes, code, offset) => {
    const { notices, notes, end } = readHex(bytes);
    const [notice] = notices;
    expect(notice).toMatchObject({ code, track: 2, offset });
    expect(notice.text).toContain('rack 3');
    // All that stands before the fault was read: one note that nothing ends, or nothing.
    expect(notes).toHaveLength(offset === 4 ? (bytes.startsWith('00 FF') ? 0 : 1) : 0);
    expect(end).toBe(0);
  });

  it('is never read past its end, whatever the bytes', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), fc.uint8Array({ maxLength: 20 }), (bytes, behind) => {
        const chunk = { start: 0, end: bytes.length };
        const alone = readTrack(bytes, chunk, 0);
        const before = readTrack(Uint8Array.from([...bytes, ...behind]), chunk, 0);
        expect(before).toEqual(alone);
        expect(alone.notes.length * 2 + alone.events.length).toBeLessThanOrEqual(bytes.length);
      }),
      { numRuns: 2000 },
    );
  });
});

describe('text', () => {
  it('is UTF-8 where it can be, else Latin-1', () => {
    expect(readText(writeText('Spår 1'))).toBe('Spår 1');
    expect(readText(Uint8Array.of(0x53, 0x70, 0xe5, 0x72))).toBe('Spår');
  });

  it('of a renamed track goes into its file, in the spelling that was there', () => {
    const named = (data: Uint8Array) => {
      const s = song([note(0, 0)]);
      const [track] = s.tracks;
      const setup = [{ tick: 0, order: 0, type: 'meta', meta: 3, data }] as const;
      const origin = { source: 0, name: readText(data), end: 0 };
      return { ...s, tracks: [{ ...track, name: readText(data), setup, origin }] };
    };
    const bytesOf = (s: Song) => {
      const again = readSmf(writeSmf(s, asPlayed(s)), 'x').song.tracks[0];
      const [event] = again.setup;
      return event.type === 'meta' ? [...event.data] : [];
    };
    const renamed = (s: Song, name: string) => ({ ...s, tracks: [{ ...s.tracks[0], name }] });
    const latin1 = named(Uint8Array.of(0x53, 0x70, 0xe5, 0x72));
    expect(bytesOf(renamed(latin1, 'Fågel'))).toEqual([0x46, 0xe5, 0x67, 0x65, 0x6c]);
    expect(bytesOf(renamed(renamed(latin1, 'Fågel'), 'Spår'))).toEqual([0x53, 0x70, 0xe5, 0x72]);
    expect(bytesOf(renamed(latin1, '小鳥'))).toEqual([...writeText('小鳥')]);
    expect(bytesOf(renamed(named(writeText('Spår')), 'Fågel'))).toEqual([...writeText('Fågel')]);
    expect(bytesOf(renamed(song([note(0, 0)]), 'Oboe'))).toEqual([...writeText('Oboe')]);
  });
});

describe('where a part begins', () => {
  const meter = meterOf(song([]));
  it.each([
    [0, 0],
    [3839, 3840],
    [3840 - 240, 3840],
    [3840 - 241, 0],
    [5000, 3840],
  ])('a first note at %i begins a part at %i', (first, begin) => expect(partStart(first, meter)).toBe(begin));
});

describe('the order at one tick', () => {
  it('moved note-offs come first, what stayed keeps its order, moved note-ons come last', () => {
    const moved = song([
      { ...note(0, 0, { length: 950, pitch: 60 }), order: [1, 2] },
      { ...note(1, 970, { pitch: 60 }), order: [3, 6] },
      { ...note(2, 960, { pitch: 64, length: 10 }), order: [4, 7] },
    ]);
    const s = treated(moved, { quantize: { on: true }, lengths: { on: true, mode: 'line' } });
    const controller = { tick: 960, order: 3.5, type: 'controller', channel: 0, controller: 7, value: 1 } as const;
    const withEvent = withEvents(s, [controller]);
    const file = writeSmf(withEvent, perform(withEvent, 'corrected'));
    const again = readSmf(file, 'x').song;
    const at = (type: 'on' | 'off', pitch: number) => {
      const n = part(again).notes.find(
        (x) => x.pitch === pitch && (type === 'on' ? x.start === 960 : x.start + x.length === 960),
      );
      return n?.order?.[type === 'on' ? 0 : 1] ?? NaN;
    };
    const events = part(again).events.map((e) => e.order ?? NaN);
    expect(at('off', 60)).toBeLessThan(events[0]);
    expect(events[0]).toBeLessThan(at('on', 64));
    expect(at('on', 64)).toBeLessThan(at('on', 60));
  });

  it('equal starts of one key are written shortest first, so that lengths come back', () => {
    const s = song([note(0, 470, { length: 300 }), note(1, 490, { length: 100 })], {
      quantize: { on: true, chordMs: 0, grid: { ...part(song([])).treatment.quantize.grid, value: 8 } },
    });
    const lengths = (x: typeof s) =>
      part(x)
        .notes.map((n) => n.length)
        .sort((a, b) => a - b);
    const again = readSmf(writeSmf(s, perform(s, 'corrected')), 'x').song;
    expect(part(again).notes.map((n) => n.start)).toEqual([480, 480]);
    expect(lengths(again)).toEqual([100, 300]);
  });

  it('muted notes are left out', () => {
    const s = song([note(0, 0), { ...note(1, 960), muted: true }]);
    expect(part(readSmf(writeSmf(s, asPlayed(s)), 'x').song).notes).toHaveLength(1);
  });
});

describe('looking at a song', () => {
  const s = song([note(0, 0), note(1, 960, { length: 2000 })]);
  it('finds parts, counts and ends', () => {
    expect(findPart(s, 'p')?.track.id).toBe('t');
    expect(findPart(s, 'none')).toBeUndefined();
    expect([...partsOf(s)]).toHaveLength(1);
    expect(noteCount(s.tracks[0])).toBe(2);
    expect(songEnd(s)).toBe(2960);
    expect(takeOf(note(5, 7))).toEqual({ start: 7, length: 200, velocity: 80 });
    expect([note(2, 5), note(1, 5), note(0, 1)].sort(byPlace).map((n) => n.id)).toEqual([0, 1, 2]);
  });

  it('shares what does not change', () => {
    const changed = withPart(s, 'p', (p) => ({ ...p, on: false }));
    expect(part(changed).notes).toBe(part(s).notes);
    expect(tempoOf(changed)).toBe(tempoOf(s));
    expect(meterOf(changed)).toBe(meterOf(s));
  });

  it('knows a pedal', () => {
    // source: MIDI 1.0, controllers 64 to 69 are switches of the foot
    const controller = (n: number) =>
      ({ tick: 0, order: 0, type: 'controller', channel: 0, controller: n, value: 0 }) as const;
    expect([63, 64, 66, 69, 70].map((n) => isPedal(controller(n)))).toEqual([false, true, true, true, false]);
  });
});
