import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf, SmfError, writeSmf } from '@early-sparrow/core/smf';
import { meterOf, newPart, newSong, newTrack, tempoOf, type Note, type Song } from '@early-sparrow/core/song';
import { MeterMap } from '@early-sparrow/core/time';
import { correctedTrack, factsOf, perform } from '@early-sparrow/core/treatment';
import { scoreOf } from '@early-sparrow/core/sound';
import { hex } from './files';
import { treatment } from './build';

const long = (n: number) => [n >>> 24, (n >> 16) & 255, (n >> 8) & 255, n & 255];
const text = (t: string) => [...t].map((c) => c.charCodeAt(0));
const chunk = (type: string, data: readonly number[]) => [...text(type), ...long(data.length), ...data];
const END = [0, 0xff, 0x2f, 0];
const NOTE = [0, 0x90, 60, 64, 96, 0x80, 60, 64];

function file(tracks: readonly (readonly number[])[], division = [0, 96]): Uint8Array {
  const head = chunk('MThd', [0, 1, tracks.length >> 8, tracks.length & 255, ...division]);
  return Uint8Array.from([...head, ...tracks.flatMap((t) => chunk('MTrk', t))]);
}
const refusal = (bytes: Uint8Array): string => {
  try {
    readSmf(bytes, 'x');
    return '';
  } catch (error) {
    return error instanceof SmfError ? `${error.code}: ${error.message}` : String(error);
  }
};

describe('what a song cannot reasonably be is refused with a sentence', () => {
  it('a song of weeks, in 68 bytes', () => {
    const giant = [0xff, 0xff, 0xff, 0x7f];
    const track = [
      ...giant,
      0x90,
      60,
      64,
      ...giant,
      0x80,
      60,
      64,
      ...giant,
      0x90,
      60,
      1,
      ...giant,
      0x80,
      60,
      0,
      ...END,
    ];
    const bytes = file([track], [0, 1]);
    expect(bytes.length).toBeLessThan(70);
    expect(refusal(bytes)).toMatch(/^unreasonable: The file would last \d+ hours; a song can last 24\./);
  });

  it('more tracks than anybody plays', () => {
    expect(refusal(file(Array.from({ length: 3000 }, () => END)))).toMatch(/^unreasonable: The file has 3000 tracks/);
  });

  it('a meter for every few ticks', () => {
    const meter = [1, 0xff, 0x58, 4, 1, 6, 24, 8];
    const many = Array.from({ length: 25_000 }, () => meter).flat();
    expect(refusal(file([[...many, ...NOTE, ...END]]))).toMatch(/^unreasonable: The file has 25000 meter changes/);
  });
});

describe('a short meter through a long song', () => {
  it('costs what is in view, not what there is of it', () => {
    const meter = new MeterMap(960, [{ tick: 0, numerator: 1, denominator: 64 }]);
    const end = 1e9;
    // All lines would be 17 million.
    const lines = [...meter.bars(0, end, end / 20)];
    expect(lines.length).toBeGreaterThan(8);
    expect(lines.length).toBeLessThan(40);
    expect(lines.every((l, i) => l % 60 === 0 && (i === 0 || l - lines[i - 1] >= end / 20))).toBe(true);
  });

  it('all its bars are given where none is too many, over changes of the meter', () => {
    const changes = [
      { tick: 0, numerator: 3, denominator: 4 },
      { tick: 7000, numerator: 2, denominator: 4 },
    ];
    expect([...new MeterMap(960, changes).bars(100, 11_000)]).toEqual([0, 2880, 5760, 7000, 8920, 10_840]);
    expect([...new MeterMap(960, changes).bars(0, 20_000, 4000)]).toEqual([0, 5760, 10_840, 14_680]);
  });

  it('a place is never told as a tick beyond its beat', () => {
    const meter = new MeterMap(960, []);
    expect(meter.toBarBeat(959.7)).toEqual({ bar: 1, beat: 2, tick: 0 });
    expect(meter.toBarBeat(3839.6)).toEqual({ bar: 2, beat: 1, tick: 0 });
  });
});

describe('what files say in their own ways', () => {
  const codes = (bytes: Uint8Array) => readSmf(bytes, 'x').notices.map((n) => n.code);

  it('meters of no beats, or of parts of a note that nobody can write, are told and do not count', () => {
    for (const meter of [
      [0, 2],
      [4, 255],
      [4, 7],
    ]) {
      const bytes = file([[0, 0xff, 0x58, 4, ...meter, 24, 8, ...NOTE, ...END]]);
      expect(codes(bytes)).toEqual(['bad-meter']);
      expect(meterOf(readSmf(bytes, 'x').song).pieces[0]).toMatchObject({ numerator: 4, denominator: 4 });
    }
  });

  it('a wrapped file is found behind another chunk', () => {
    const inner = [...file([[...NOTE, ...END]])];
    const odd = [...text('LIST'), 3, 0, 0, 0, 1, 2, 3, 0];
    const riff = [
      ...text('RIFF'),
      0,
      0,
      0,
      0,
      ...text('RMID'),
      ...odd,
      ...text('data'),
      inner.length,
      0,
      0,
      0,
      ...inner,
    ];
    expect(readSmf(Uint8Array.from(riff), 'x').song.tracks[0].parts[0].notes).toHaveLength(1);
  });

  it('a file that counts in seconds keeps no tempo that would come alive when it is written in beats', () => {
    const tempo = [0, 0xff, 0x51, 3, 1, 0, 0];
    const bytes = file(
      [
        [...tempo, ...NOTE, ...END],
        [...tempo, ...NOTE, ...END],
      ],
      [0xe7, 40],
    );
    const { song } = readSmf(bytes, 'x');
    const again = readSmf(writeSmf(song, asPlayed(song)), 'x').song;
    const times = (s: Song) =>
      s.tracks.flatMap((t) => t.parts.flatMap((p) => p.notes.map((n) => tempoOf(s).toMs(n.start + n.length))));
    expect(times(again)).toEqual(times(song));
    expect(again.tempo).toHaveLength(1);
  });

  it('renaming a channel of a file of one track does not rename the file’s track', () => {
    const bytes = hex(
      '4D 54 68 64 00 00 00 06 00 00 00 01 00 60 4D 54 72 6B 00 00 00 1D 00 FF 03 04 4C 69 65 64 00 90 3C 40 00 91 40 40 60 80 3C 40 00 81 40 40 00 FF 2F 00',
    );
    const { song } = readSmf(bytes, 'x');
    const [first, second] = song.tracks;
    expect([first.name, second.name]).toEqual(['Lied', 'Channel 2']);
    const renamed = { ...song, tracks: [first, { ...second, name: 'Alt' }] };
    expect(readSmf(writeSmf(renamed, asPlayed(renamed)), 'x').song.tracks[0].name).toBe('Lied');
    const other = { ...song, tracks: [{ ...first, name: 'Neu' }, second] };
    expect(readSmf(writeSmf(other, asPlayed(other)), 'x').song.tracks[0].name).toBe('Neu');
  });

  it('songs made here are written in format 1, tempo and markers first, with names, programs and channels', () => {
    const notes: Note[] = [{ id: 0, start: 960, length: 480, pitch: 60, velocity: 80, channel: 0, release: 64 }];
    const tracks = ['Oboe', 'Horn'].map((name, i) =>
      newTrack(`t${i + 1}`, name, {
        channel: i + 3,
        program: 68 + i,
        transpose: i * 12,
        delay: { value: i * 10, unit: 'ms' },
        parts: [newPart(`p${i + 5}`, name, 0, 3840, { notes: notes.map((n) => ({ ...n, id: i })) })],
      }),
    );
    const song = {
      ...newSong('New'),
      tracks,
      markers: [{ tick: 960, name: 'Verse' }],
      tempo: [{ tick: 0, usPerQuarter: 600_000 }],
      nextId: 20,
    };
    const again = readSmf(writeSmf(song, perform(song, 'corrected')), 'x').song;
    expect(again.origin?.format).toBe(1);
    expect(again.tracks.map((t) => t.name)).toEqual(['New', 'Oboe', 'Horn']);
    expect(again.markers).toMatchObject([{ tick: 960, name: 'Verse' }]);
    expect(again.tempo).toMatchObject([{ tick: 0, usPerQuarter: 600_000 }]);
    const [, oboe, horn] = again.tracks;
    expect(oboe.parts[0].notes[0]).toMatchObject({ channel: 3, pitch: 60, start: 960 });
    // 10 ms at 100 BPM are 16 ticks.
    expect(horn.parts[0].notes[0]).toMatchObject({ channel: 4, pitch: 72, start: 976 });
    expect(oboe.setup.find((e) => e.type === 'program')).toMatchObject({ program: 68, channel: 3 });
  });
});

describe('large tracks', () => {
  it('of 150,000 notes and as many bends are read, treated, known and written', () => {
    const body: number[] = [];
    for (let i = 0; i < 150_000; i++) {
      body.push(2, 0x90, 40 + (i % 50), 64, 0, 0xe0, i & 127, 64, 3, 0x80, 40 + (i % 50), 64);
    }
    const head = Uint8Array.from([...chunk('MThd', [0, 1, 0, 1, 0, 96]), ...text('MTrk'), ...long(body.length + 4)]);
    const bytes = new Uint8Array(head.length + body.length + 4);
    bytes.set(head);
    bytes.set(body, head.length);
    bytes.set(END, head.length + body.length);
    const { song } = readSmf(bytes, 'x');
    const [track] = song.tracks;
    const [part] = track.parts;
    expect([part.notes.length, part.events.length]).toEqual([150_000, 150_000]);
    const moved = {
      ...song,
      tracks: [{ ...track, parts: [{ ...part, treatment: treatment({ quantize: { on: true } }) }] }],
    };
    const facts = factsOf(moved.tracks[0].parts[0], moved);
    expect(facts.count).toBe(150_000);
    const { notes } = scoreOf(moved.tracks[0], correctedTrack(moved.tracks[0], moved), tempoOf(moved));
    expect(notes.id).toHaveLength(150_000);
    const again = readSmf(writeSmf(moved, perform(moved, 'corrected')), 'x').song.tracks[0].parts[0];
    expect([again.notes.length, again.events.length]).toEqual([150_000, 150_000]);
  }, 60_000);
});

describe('the nearest beat and bar', () => {
  it('are whole ticks, in bars of any length, and the later one halfway', () => {
    const meter = new MeterMap(960, [{ tick: 3840, numerator: 7, denominator: 8 }]);
    expect([479, 480, 1000, 3700].map((t) => meter.nearest(t, 'beat'))).toEqual([0, 960, 960, 3840]);
    expect([1919, 1920, 3840 + 1679, 3840 + 1680].map((t) => meter.nearest(t, 'bar'))).toEqual([0, 3840, 3840, 7200]);
    // A bar that the next meter cuts short has no beat behind its end.
    const cut = new MeterMap(960, [{ tick: 1300, numerator: 4, denominator: 4 }]);
    expect(cut.nearest(1290, 'beat')).toBe(960);
    expect(cut.nearest(1299, 'bar')).toBe(1300);
    expect(new MeterMap(1000, [{ tick: 0, numerator: 1, denominator: 64 }]).nearest(60, 'bar')).toBe(63);
  });
});
