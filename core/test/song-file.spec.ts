import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { strToU8, unzipSync, zipSync } from 'fflate';
import { doEdit, isProblem, startHistory, undo, type History } from '@early-sparrow/core/edit';
import {
  digest,
  fromJson,
  readSongFile,
  songFileSchemas,
  SongFileError,
  toJson,
  writeSongFile,
  type SoundFile,
} from '@early-sparrow/core/keeping';
import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import type { Song } from '@early-sparrow/core/song';
import { perform } from '@early-sparrow/core/treatment';
import { anySongAtAll } from './any';
import { song } from './build';

const demo = readSmf(readFileSync('app/public/demo/night-ferry.mid'), 'Night Ferry').song;
const noise = Uint8Array.from({ length: 5000 }, (_, i) => (i * i * 31 + i) & 0xff);
let sound: SoundFile;
let edited: History;

function renamed(history: History, to: string): History {
  const after = doEdit(history, { kind: 'song-name', name: 'Rename the song', to });
  if (isProblem(after)) throw new Error(after.problem);
  return after;
}

beforeAll(async () => {
  sound = { file: await digest(noise), name: 'click.wav', bytes: noise };
  edited = undo(renamed(renamed(startHistory(demo), 'One'), 'Two'));
});

/** The zip file with some entries replaced. */
function changed(bytes: Uint8Array, change: Record<string, Uint8Array | string | null>): Uint8Array {
  const entries = unzipSync(bytes);
  for (const [path, to] of Object.entries(change)) {
    if (to === null) delete entries[path];
    else entries[path] = (typeof to === 'string' ? strToU8(to) : to) as Uint8Array<ArrayBuffer>;
  }
  return zipSync(entries);
}

/** Replaces `song.json`, and what is said of it. */
async function withSong(bytes: Uint8Array, json: string): Promise<Uint8Array> {
  const about = JSON.parse(new TextDecoder().decode(unzipSync(bytes)['about.json']));
  const text = strToU8(json);
  const entry = about.entries.find((e: { path: string }) => e.path === 'song.json');
  Object.assign(entry, { size: text.length, sha256: await digest(text) });
  return changed(bytes, { 'song.json': text, 'about.json': JSON.stringify(about) });
}

const codeOf = (bytes: Uint8Array) =>
  readSongFile(bytes).then(
    () => 'read',
    (error: unknown) => {
      if (error instanceof SongFileError) return error.code;
      throw error;
    },
  );

describe('a song file', () => {
  it('gives the same song, history and sound files back, and the same MIDI file to the byte', async () => {
    const read = await readSongFile(await writeSongFile({ history: edited, sounds: [sound] }, true));
    expect(read.notices).toEqual([]);
    expect(read.history.song).toEqual(edited.song);
    const edits = (h: History) => [h.undo.map((s) => s.edit), h.redo.map((s) => s.edit)];
    expect(edits(read.history)).toEqual(edits(edited));
    expect(undo(read.history).song.name).toBe(demo.name);
    expect(read.sounds).toEqual([sound]);
    expect(writeSmf(read.history.song, perform(read.history.song, 'corrected'))).toEqual(
      writeSmf(edited.song, perform(edited.song, 'corrected')),
    );
  });

  it('leaves the history out where that is wished', async () => {
    const { history, notices } = await readSongFile(await writeSongFile({ history: edited, sounds: [] }, false));
    expect(history).toEqual(startHistory(edited.song));
    expect(notices).toEqual([]);
  });

  it('holds any song', async () => {
    await fc.assert(
      fc.asyncProperty(anySongAtAll, async (any) => {
        const read = await readSongFile(await writeSongFile({ history: startHistory(any), sounds: [] }, true));
        expect(read.history.song).toEqual(any);
        expect(writeSmf(read.history.song, asPlayed(read.history.song))).toEqual(writeSmf(any, asPlayed(any)));
      }),
      { numRuns: 60 },
    );
  });

  it('is the same for the same song, and a zip file that other programs read', async () => {
    const bytes = await writeSongFile({ history: edited, sounds: [sound] }, true);
    expect(await writeSongFile({ history: edited, sounds: [sound] }, true)).toEqual(bytes);
    const path = join(mkdtempSync(join(tmpdir(), 'early-sparrow-')), 'song.sparrow');
    writeFileSync(path, bytes);
    // Python's zipfile checks each entry against its CRC-32 (PKWARE APPNOTE 6.3, 4.4.7).
    const script =
      'import sys,zipfile,json\nz=zipfile.ZipFile(sys.argv[1])\nassert z.testzip() is None\n' +
      'print(json.dumps([z.namelist(), json.loads(z.read("song.json"))["name"]]))';
    const [names, name] = JSON.parse(execFileSync('python3', ['-c', script, path], { encoding: 'utf8' }));
    expect(names).toEqual(['about.json', 'song.json', 'history.json', `sounds/${sound.file}`]);
    expect(name).toBe('One');
  });

  it('that an earlier version wrote opens for ever', async () => {
    const { history, sounds, notices } = await readSongFile(readFileSync('core/test/fixtures/song-file-1.sparrow'));
    expect(notices).toEqual([]);
    expect(sounds).toHaveLength(1);
    expect(history.song.name).toBe('One');
    expect(history.undo).toHaveLength(1);
    expect(history.redo).toHaveLength(1);
    expect(writeSmf(history.song, asPlayed(history.song))).toEqual(writeSmf(edited.song, asPlayed(edited.song)));
  });

  it('is described by schemas that name all it holds', () => {
    const { 'song.json': song, 'about.json': about, 'history.json': history } = songFileSchemas();
    expect(JSON.stringify(song)).toContain('"$bytes"');
    const note = (song as { properties: Record<string, unknown> }).properties['tracks'];
    for (const field of ['velocity', 'pitch', 'exception', 'take']) expect(JSON.stringify(note)).toContain(field);
    expect(JSON.stringify(about)).toContain('sha256');
    expect(JSON.stringify(history)).toContain('undo');
  });
});

describe('bytes in JSON', () => {
  it('come back, and what is no base64 is refused by who reads it', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (data) => expect(fromJson(toJson({ data }))).toEqual({ data })),
    );
    expect(toJson(Uint8Array.from({ length: 100_000 }, (_, i) => i & 255)).length).toBeGreaterThan(133_000);
    expect(fromJson('{"$bytes":"%%%"}')).toBeNull();
    expect(fromJson('{"$bytes":"AAA=","more":1}')).toEqual({ $bytes: 'AAA=', more: 1 });
  });
});

describe('a song file that is not as it should be', () => {
  let bytes: Uint8Array;
  beforeAll(async () => {
    bytes = await writeSongFile({ history: edited, sounds: [sound] }, true);
  });

  it('is refused in a sentence: other files, newer ones, damaged ones', async () => {
    expect(await codeOf(new Uint8Array())).toBe('not-song');
    expect(await codeOf(readFileSync('app/public/demo/night-ferry.mid'))).toBe('not-song');
    expect(await codeOf(zipSync({ 'letter.txt': strToU8('Dear Jo') }))).toBe('not-song');
    expect(await codeOf(changed(bytes, { 'about.json': '{"kind":"early-sparrow-song","version":2}' }))).toBe('newer');
    expect(await codeOf(await withSong(bytes, toJson({ ...demo, version: 3 })))).toBe('newer');
    expect(await codeOf(changed(bytes, { 'about.json': '{"kind":"early-sparrow-song","version":1}' }))).toBe('damaged');
    expect(await codeOf(changed(bytes, { 'song.json': null }))).toBe('damaged');
    expect(await codeOf(changed(bytes, { 'song.json': toJson({ ...demo, name: 'Other' }) }))).toBe('damaged');
    expect(await codeOf(await withSong(bytes, toJson({ ...demo, ppq: 0 })))).toBe('damaged');
  });

  it('loses no more than what is damaged', async () => {
    const other = { ...sound, bytes: noise.slice(1) };
    const read = await readSongFile(changed(bytes, { [`sounds/${sound.file}`]: other.bytes, 'history.json': '[]' }));
    expect(read.history).toEqual(startHistory(edited.song));
    expect(read.sounds).toEqual([]);
    expect(read.notices.join(' ')).toMatch(/history is damaged.*“click.wav” in it is damaged or missing/);
  });

  it('says what could be saved where it is cut off', async () => {
    const cut = await readSongFile(bytes.subarray(0, bytes.length - 3000));
    expect(cut.history.song).toEqual(edited.song);
    expect(cut.history.undo).toHaveLength(1);
    expect(cut.notices).toEqual([
      'The file is cut off. The song in it is whole.',
      expect.stringContaining('“click.wav”'),
    ]);
    // Wherever it is cut: a song that is whole, or a refusal.
    const seen = new Set<string>();
    for (let k = 1; k <= 60; k++) {
      const part = bytes.subarray(0, Math.floor((bytes.length * k) / 61));
      const outcome = await readSongFile(part).then(
        ({ history }) => {
          expect(history.song).toEqual(edited.song);
          return 'read';
        },
        (error: SongFileError) => error.code,
      );
      seen.add(outcome);
    }
    expect([...seen].sort()).toEqual(['cut-off', 'read']);
  });

  it('unpacks nothing that says it is too large, or larger than anything packed so small can be', async () => {
    const lie = (size: number, of = bytes) => {
      const copy = of.slice();
      const view = new DataView(copy.buffer);
      // Size of song.json in the list of contents, and before its data (PKWARE APPNOTE 6.3, 4.3.7 and 4.3.12).
      const name = strToU8('song.json');
      for (let i = 0; i + 46 < copy.length; i++) {
        const signature = view.getUint32(i, true);
        const [at, to] = signature === 0x04034b50 ? [22, 30] : signature === 0x02014b50 ? [24, 46] : [0, 0];
        if (at > 0 && name.every((c, k) => copy[i + to + k] === c)) view.setUint32(i + at, size, true);
      }
      return copy;
    };
    expect(await codeOf(lie(0x7fffffff))).toMatch(/too-large|damaged/);
    expect(await codeOf(lie(400_000_000))).toBe('damaged');
    expect(await codeOf(lie(10))).toBe('damaged');
    const bomb = changed(bytes, {
      'song.json': Uint8Array.from({ length: 600_000 }, (_, i) => Math.imul(i * i + 7, 2654435761) >>> 13),
    });
    expect(await codeOf(lie(510_000_000, bomb))).toBe('too-large');
  });

  it('takes nothing from paths that climb, from prototype keys or from endless nesting', async () => {
    const climbing = changed(bytes, { '../../etc/passwd': 'x', '/song.json': 'x', __proto__x: 'x' });
    expect((await readSongFile(climbing)).history.song).toEqual(edited.song);
    const hostile = toJson(demo).replace(
      '{',
      '{"__proto__":{"polluted":true},"constructor":{"prototype":{"polluted":1}},',
    );
    const read = await readSongFile(await withSong(bytes, hostile));
    expect(read.history.song).toEqual(demo);
    expect(({} as Record<string, unknown>)['polluted']).toBeUndefined();
    const deep = `${'{"a":'.repeat(200_000)}1${'}'.repeat(200_000)}`;
    expect(await codeOf(await withSong(bytes, deep))).toBe('damaged');
    expect(await codeOf(await withSong(bytes, `${'['.repeat(200_000)}${']'.repeat(200_000)}`))).toBe('damaged');
  });

  it('ends in a song or in a sentence, whatever bytes are changed', async () => {
    const small = await writeSongFile({ history: renamed(startHistory(song([])), 'One'), sounds: [sound] }, true);
    const fine: Song[] = [];
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(small.length - 1), fc.nat(255)), { minLength: 1, maxLength: 6 }),
        fc.option(fc.nat(small.length), { nil: null }),
        async (changes, cut) => {
          const copy = small.slice(0, cut ?? small.length);
          for (const [at, to] of changes) if (at < copy.length) copy[at] = to;
          try {
            fine.push((await readSongFile(copy)).history.song);
          } catch (error) {
            expect(error).toBeInstanceOf(SongFileError);
          }
        },
      ),
      { numRuns: 2000 },
    );
    // What is read was not changed.
    expect(fine.length).toBeGreaterThan(0);
    for (const one of fine) expect(one).toEqual({ ...song([]), name: 'One' });
  });
});
