import { Midi } from '@tonejs/midi';
import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf, SmfError, writeSmf } from '@early-sparrow/core/smf';
import { pack, partsOf, readSong, songEnd, tempoOf, unpack } from '@early-sparrow/core/song';
import { perform } from '@early-sparrow/core/treatment';
import { note, song } from './build';
import { hex, midicsv, read, realFiles } from './files';

// source: Standard MIDI Files 1.0 (MIDI Association RP-001), the example in format 0 and in format 1
const EXAMPLE_0 = hex(`4D 54 68 64 00 00 00 06 00 00 00 01 00 60 4D 54 72 6B 00 00 00 3B
  00 FF 58 04 04 02 18 08 00 FF 51 03 07 A1 20 00 C0 05 00 C1 2E 00 C2 46 00 92 30 60 00 3C 60
  60 91 43 40 60 90 4C 20 81 40 82 30 40 00 3C 40 00 81 43 40 00 80 4C 40 00 FF 2F 00`);
const EXAMPLE_1 = hex(`4D 54 68 64 00 00 00 06 00 01 00 04 00 60
  4D 54 72 6B 00 00 00 14 00 FF 58 04 04 02 18 08 00 FF 51 03 07 A1 20 83 00 FF 2F 00
  4D 54 72 6B 00 00 00 10 00 C0 05 81 40 90 4C 20 81 40 4C 00 00 FF 2F 00
  4D 54 72 6B 00 00 00 0F 00 C1 2E 60 91 43 40 82 20 43 00 00 FF 2F 00
  4D 54 72 6B 00 00 00 15 00 C2 46 00 92 30 60 00 3C 60 83 00 30 00 00 3C 00 00 FF 2F 00`);

const notesOf = (bytes: Uint8Array) =>
  [...partsOf(readSmf(bytes, 'x').song)]
    .flatMap(({ part }) => part.notes.map((n) => [n.channel, n.pitch, n.start, n.length, n.velocity]))
    .sort((a, b) => a[0] - b[0] || a[1] - b[1]);

/** One track with these event bytes. */
function oneTrack(events: string, format = 1, division = '00 60'): Uint8Array {
  const body = hex(events);
  const length = [24, 16, 8, 0].map((s) => ((body.length >> s) & 255).toString(16).padStart(2, '0')).join(' ');
  const head = hex(`4D 54 68 64 00 00 00 06 00 0${format} 00 01 ${division} 4D 54 72 6B ${length}`);
  return Uint8Array.from([...head, ...body]);
}

const NOTE = '00 90 3C 40 60 80 3C 20';
const END = '00 FF 2F 00';
const codes = (bytes: Uint8Array) => readSmf(bytes, 'x').notices.map((n) => n.code);

describe('the standard’s own example', () => {
  // 96 ticks a quarter become 960; four notes: E5 at beat 3, G4 at beat 2, C3 and C4 at beat 1, all ending with the bar
  const expected = [
    [0, 76, 1920, 1920, 32],
    [1, 67, 960, 2880, 64],
    [2, 48, 0, 3840, 96],
    [2, 60, 0, 3840, 96],
  ];
  it('reads the same from format 0 and format 1', () => {
    expect(notesOf(EXAMPLE_0)).toEqual(expected);
    expect(notesOf(EXAMPLE_1)).toEqual(expected);
    expect(codes(EXAMPLE_0)).toEqual([]);
    expect(codes(EXAMPLE_1)).toEqual([]);
  });

  it('splits format 0 into a track a channel and writes one track again', () => {
    const { song } = readSmf(EXAMPLE_0, 'x');
    expect(song.tracks).toHaveLength(3);
    const again = writeSmf(song, asPlayed(song));
    expect(midicsv(again).filter((l) => l.includes('Note_on'))).toHaveLength(4);
    expect(readSmf(again, 'x').song.origin?.format).toBe(0);
    expect(notesOf(again)).toEqual(expected);
  });

  it('has tempo 120 and meter 4/4', () => {
    const { song } = readSmf(EXAMPLE_1, 'x');
    expect(tempoOf(song).bpmAt(0)).toBeCloseTo(120, 9);
    expect(song.meter).toMatchObject([{ numerator: 4, denominator: 4 }]);
  });
});

describe('variable-length quantities', () => {
  // source: RP-001, table of examples
  it.each([
    ['00', 0],
    ['40', 0x40],
    ['7F', 0x7f],
    ['81 00', 0x80],
    ['C0 00', 0x2000],
    ['FF 7F', 0x3fff],
    ['81 80 00', 0x4000],
    ['C0 80 00', 0x100000],
    ['FF FF 7F', 0x1fffff],
    ['81 80 80 00', 0x200000],
    ['C0 80 80 00', 0x8000000],
    ['FF FF FF 7F', 0xfffffff],
  ])('%s is %i, both ways', (bytes, value) => {
    // 600 BPM: the longest distance would be no song's at 120.
    const file = oneTrack(`00 FF 51 03 01 86 A0 ${bytes} 90 3C 40 01 80 3C 20 ${END}`, 1, '03 C0');
    const { song } = readSmf(file, 'x');
    expect(song.tracks[0].parts[0].notes[0].start).toBe(value);
    expect(writeSmf(song, asPlayed(song))).toEqual(file);
  });
});

describe('real files', () => {
  it.each(realFiles())('%s comes back with nothing changed but the ticks', (path) => {
    const bytes = read(path);
    const { song } = readSmf(bytes, 'x');
    const factor = song.ppq / new DataView(bytes.buffer, bytes.byteOffset).getUint16(12);
    for (const which of ['played', 'corrected'] as const) {
      const written = midicsv(writeSmf(song, perform(song, which)));
      expect(written).toEqual(scaled(midicsv(bytes), factor));
    }
  });

  it('says when a note sounds as another reader does', () => {
    for (const path of realFiles().slice(0, 12)) {
      // reference: @tonejs/midi, which leaves out notes that nothing ends
      const other = new Midi(read(path)).tracks.flatMap((t) => t.notes.map((n) => n.time)).sort((a, b) => a - b);
      const { song } = readSmf(read(path), 'x');
      const tempo = tempoOf(song);
      const ours = [...partsOf(song)]
        .flatMap(({ part }) => part.notes.filter((n) => !n.unended).map((n) => tempo.toMs(n.start) / 1000))
        .sort((a, b) => a - b);
      expect(ours).toHaveLength(other.length);
      ours.forEach((t, i) => expect(t).toBeCloseTo(other[i], 6));
    }
  });
});

/** midicsv lines with every tick multiplied, and the division with it. */
function scaled(lines: string[], factor: number): string[] {
  return lines.map((line) => {
    const cells = line.split(', ');
    if (cells[2] === 'Header') cells[5] = String(Number(cells[5]) * factor);
    else if (cells.length > 2 && cells[0] !== '0') cells[1] = String(Number(cells[1]) * factor);
    return cells.join(', ');
  });
}

describe('everything in a file', () => {
  it('keeps controllers, bends, pressure, programs, system exclusive, texts, odd metas and chunks', () => {
    const events = `00 FF 03 02 41 42 00 FF 01 01 E9 00 FF 59 02 FD 00 00 FF 51 02 01 02 00 FF 58 02 03 02 00 FF 54 05 61 02 03 04 05
      00 FF 60 01 07 00 FF 7F 02 01 02 00 F0 03 43 12 F7 00 F7 02 01 02 00 C0 05 00 B0 40 7F 00 E0 00 50 00 D0 11
      00 A0 3C 22 ${NOTE} 00 80 40 10 00 FF 06 01 4D ${END}`;
    const file = oneTrack(events, 1, '03 C0');
    const chunk = hex('58 59 5A 41 00 00 00 02 09 08');
    const bytes = Uint8Array.from([...file, ...chunk]);
    const { song, notices } = readSmf(bytes, 'x');
    expect(writeSmf(song, asPlayed(song))).toEqual(bytes);
    expect(notices.map((n) => n.code)).toEqual(['bad-tempo', 'bad-meter']);
  });

  it('takes a note-on without velocity for a note-off, and running status as it comes', () => {
    // source: MIDI 1.0 Detailed Specification
    const [note] = readSmf(oneTrack(`00 90 3C 40 60 3C 00 ${END}`), 'x').song.tracks[0].parts[0].notes;
    expect(note).toMatchObject({ start: 0, length: 960, release: null });
  });

  it('pairs overlapping notes of one key first-in first-out', () => {
    const file = oneTrack(`00 90 3C 40 10 90 3C 41 10 80 3C 00 10 80 3C 00 ${END}`);
    expect(notesOf(file)).toEqual([
      [0, 60, 0, 320, 64],
      [0, 60, 160, 320, 65],
    ]);
  });

  it('lets a note without an end last to the end of its track and says so', () => {
    const { song, notices } = readSmf(oneTrack(`00 90 3C 40 83 00 FF 2F 00`), 'x');
    expect(song.tracks[0].parts[0].notes[0].length).toBe(3840);
    expect(notices).toMatchObject([{ code: 'unended-notes', track: 0 }]);
  });

  it('is 120 BPM and 4/4 where the file says nothing', () => {
    // source: RP-001
    const { song } = readSmf(oneTrack(`${NOTE} ${END}`), 'x');
    expect(tempoOf(song).toMs(song.ppq)).toBeCloseTo(500, 9);
  });

  it('opens frame-counted time at a fixed tempo with every time kept', () => {
    // 25 frames of 40 ticks: a tick is a millisecond (source: RP-001, division)
    const { song, notices } = readSmf(oneTrack(`64 90 3C 40 64 80 3C 20 ${END}`, 1, 'E7 28'), 'x');
    const [note] = song.tracks[0].parts[0].notes;
    expect(tempoOf(song).toMs(note.start)).toBeCloseTo(100, 9);
    expect(notices).toMatchObject([{ code: 'smpte' }]);
  });

  it('opens format 2 with a notice', () => expect(codes(oneTrack(`${NOTE} ${END}`, 2))).toContain('format-2'));

  it('begins a part at the bar that a first note just before it was meant for', () => {
    const at = (delta: string) =>
      readSmf(oneTrack(`${delta} ${NOTE.slice(3)} ${END}`), 'x').song.tracks[0].parts[0].start;
    expect(at('82 7C')).toBe(3840); // tick 380 of 384: a hair before bar 2
    expect(at('82 20')).toBe(0); // tick 288: the fourth beat of bar 1
  });
});

describe('bad files', () => {
  const refused = (bytes: Uint8Array) => {
    try {
      readSmf(bytes, 'x');
    } catch (error) {
      return error instanceof SmfError ? error.code : error;
    }
    return null;
  };

  it.each([
    ['an empty file', new Uint8Array(), 'empty'],
    ['text', new TextEncoder().encode('a song about a ferry, not a MIDI file'), 'not-midi'],
    ['a header alone', EXAMPLE_1.slice(0, 14), 'no-tracks'],
    ['half a header', EXAMPLE_1.slice(0, 9), 'bad-header'],
    ['no division', Uint8Array.from(EXAMPLE_1).fill(0, 12, 14), 'bad-header'],
    ['more than 16 MB', new Uint8Array(16 * 1024 * 1024 + 1), 'too-large'],
  ])('refuses %s', (_name, bytes, code) => expect(refused(bytes)).toBe(code));

  it('opens what is there of a file that was cut off anywhere, and names track and byte', () => {
    const whole = notesOf(EXAMPLE_1).length;
    for (let length = 23; length < EXAMPLE_1.length; length++) {
      const { song, notices } = readSmf(EXAMPLE_1.slice(0, length), 'x');
      expect(notices.length).toBeGreaterThan(0);
      expect(song.tracks.flatMap((t) => t.parts).length).toBeLessThanOrEqual(whole);
      expect(notices.some((n) => n.offset !== null && n.offset <= length)).toBe(true);
    }
  });

  it('names track and byte of running status without a status', () => {
    const { notices } = readSmf(oneTrack(`00 3C 40 ${END}`), 'x');
    expect(notices).toMatchObject([{ code: 'bad-event', track: 0, offset: 22 }]);
    expect(notices[0].text).toContain('byte 22');
  });

  it('counts the tracks itself', () => {
    const lying = Uint8Array.from(EXAMPLE_1);
    lying[11] = 9;
    expect(codes(lying)).toEqual(['track-count']);
    expect(notesOf(lying)).toEqual(notesOf(EXAMPLE_1));
  });
});

describe('damaged files', () => {
  const joined = (...pieces: Uint8Array[]) => Uint8Array.from(Buffer.concat(pieces));
  /** A small generator of its own, so that a failure can be run again. */
  function* numbers(seed: number): Generator<number> {
    for (;;) yield (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  }

  it('are opened or refused, never hung on and never thrown at with anything else', () => {
    const files = [
      EXAMPLE_0,
      EXAMPLE_1,
      ...realFiles()
        .map(read)
        .filter((b) => b.length < 30_000),
    ];
    let slowest = 0;
    let opened = 0;
    for (let run = 0; run < 4000; run++) {
      const random = numbers(run + 1);
      const next = () => random.next().value as number;
      let bytes = Uint8Array.from(files[run % files.length]);
      const damages = 1 + Math.floor(next() * 6);
      for (let d = 0; d < damages; d++) {
        const at = Math.floor(next() * bytes.length * (next() < 0.3 ? 0.02 : 1));
        const kind = next();
        if (kind < 0.5) bytes[at] = Math.floor(next() * 256);
        else if (kind < 0.65) bytes = bytes.slice(0, at + 1);
        else if (kind < 0.8) bytes = joined(bytes.slice(0, at), bytes.slice(at + 1 + Math.floor(next() * 9)));
        else bytes = joined(bytes.slice(0, at), Uint8Array.of(0xff, next() * 256, 0xff), bytes.slice(at));
      }
      const begin = performance.now();
      try {
        const { song } = readSmf(bytes, 'x');
        opened++;
        // What was opened is not refused once it is kept.
        const kept = readSong(unpack(pack(song)));
        // It can be written and is the same when it is read again.
        if (run % 10 === 0) {
          expect(kept).toEqual(song);
          const again = readSmf(writeSmf(song, asPlayed(song)), 'x').song;
          expect(songEnd(again) / again.ppq).toBeCloseTo(songEnd(song) / song.ppq, 6);
          expect([...partsOf(again)].map(({ part }) => part.notes.length)).toEqual(
            [...partsOf(song)].map(({ part }) => part.notes.length),
          );
        }
      } catch (error) {
        if (!(error instanceof SmfError)) throw new Error(`run ${run}`, { cause: error });
      }
      slowest = Math.max(slowest, performance.now() - begin);
    }
    expect(opened).toBeGreaterThan(2000);
    // Generous: it is there to catch a hang, not to time the code.
    expect(slowest).toBeLessThan(5000);
  });
});

describe('a note without length', () => {
  it('is written on before off, whatever shares its tick', () => {
    const zero = note(0, 960, { length: 0, order: [3, 4] });
    const moved = note(1, 960, { length: 100 });
    const s = song([zero, moved]);
    const bytes = writeSmf(s, perform(s, 'played'));
    const [track] = readSmf(bytes, 'x').song.tracks;
    expect(track.parts[0].notes.map((n) => [n.start, n.length]).sort((a, b) => a[1] - b[1])).toEqual([
      [960, 0],
      [960, 100],
    ]);
    expect(track.setup.filter((e) => e.type === 'stray-off')).toEqual([]);
  });
});
