import { spawn, spawnSync } from 'node:child_process';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { newPart, newSong, newTrack, type Note } from '@early-sparrow/core/song';
import { note } from '../../core/test/build';
import type { Job } from '../src/job';
import { runAll } from '../src/pool';
import { BUILT_IN_RULES, ruleToJson } from '@early-sparrow/core/rules';
import { recipeFromFlags } from '../src/recipe';
import { readLimit, readShare, readTime, UsageError } from '../src/units';

const DEMO = 'app/public/demo/night-ferry.mid';
/** The worker as it is bundled for the command line; the tests above have bundled it. */
const THREAD = pathToFileURL('dist/run/cli/src/worker.mjs');
const folder = mkdtempSync(join(tmpdir(), 'early-sparrow-'));
const inFolder = (name: string) => join(folder, name);

function timing(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(process.execPath, ['tools/timing.mjs', ...args], { encoding: 'utf8' });
  return { status, stdout, stderr };
}

const startsOf = (path: string, track: number) =>
  readSmf(new Uint8Array(readFileSync(path)), 'x').song.tracks[track].parts[0].notes.map((n) => n.start);

/** Three short tracks that are late together. */
function lateFile(): string {
  const path = inFolder('late.mid');
  const tracks = [40, 52, 64].map((pitch, k) => {
    const notes = Array.from({ length: 32 }, (_, i) => note(k * 100 + i, i * 480 + 40 + ((i * 7) % 5), { pitch }));
    return newTrack(`t${k}`, `Track ${k + 1}`, { parts: [newPart(`p${k}`, 'Part', 0, 19_200, { notes })] });
  });
  const song = { ...newSong('Late'), tracks, nextId: 400 };
  writeFileSync(path, writeSmf(song, asPlayed(song)));
  return path;
}

describe('analyse', () => {
  it('prints one JSON document a file, and nothing else, to standard output', () => {
    const { status, stdout } = timing('analyse', DEMO, DEMO, '--json');
    expect(status).toBe(0);
    const documents = stdout
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line));
    expect(documents).toHaveLength(2);
    expect(documents[0].tracks.map((t: { name: string }) => t.name)).toContain('Clarinet');
    const [marimba, , kit] = documents[0].tracks;
    expect(marimba).toMatchObject({ index: 1, notes: 435, sure: true, drifting: false, swing: null });
    expect(marimba.grids[0]).toMatchObject({ grid: '1/16', merges: 0, reason: expect.stringContaining('sixteenth') });
    expect(marimba.lagLowMs).toBeLessThanOrEqual(marimba.lagMs);
    expect(kit.swing.share).toBeCloseTo(0.62, 2);
    expect(documents[0].commonLean).toBeNull();
    // One file and no terminal: the same without asking.
    expect(JSON.parse(timing('analyse', DEMO).stdout)).toEqual(documents[0]);
  });

  it('tells once what most tracks share', () => {
    const late = lateFile();
    // 42 ticks at 120 BPM and 960 a quarter are 21.9 ms.
    expect(JSON.parse(timing('analyse', late).stdout).commonLean).toEqual({
      ms: expect.closeTo(21.9, 0),
      tracks: [1, 2, 3],
    });
    const { stdout } = timing('analyse', late, late);
    expect(stdout).toMatch(/Most tracks \(1, 2, 3\) lie 2[12]\.\d ms behind the bars/);
    expect(stdout.match(/Most tracks/g)).toHaveLength(2);
  });

  it('prints a table for several files', () => {
    const { stdout } = timing('analyse', DEMO, lateFile());
    expect(stdout).toContain('grids, best first');
    expect(stdout).toMatch(/Marimba .* 1[01]\.\d ms early/);
    expect(stdout.match(/Most tracks/g)).toHaveLength(1);
  });
});

describe('correct', () => {
  it('writes what was asked, and only that', () => {
    const out = inFolder('tight.mid');
    const { status, stdout } = timing(
      'correct',
      DEMO,
      '--out',
      out,
      '--grid',
      '1/16',
      '--tracks',
      '1',
      '--report',
      inFolder('r.json'),
    );
    expect(status).toBe(0);
    expect(stdout).toMatch(/Marimba \(1\/16\): \d+ of 435 notes move/);
    expect(startsOf(out, 1).every((t) => t % 240 === 0)).toBe(true);
    expect(startsOf(out, 2)).toEqual(startsOf(DEMO, 2));
    const report = JSON.parse(readFileSync(inFolder('r.json'), 'utf8'));
    expect(report.files[0].tracks[0].notes).toHaveLength(435);
  });

  it('never replaces a file without --force', () => {
    const out = inFolder('kept.mid');
    writeFileSync(out, 'mine');
    expect(timing('correct', DEMO, '--out', out, '--grid', '1/8')).toMatchObject({
      status: 1,
      stderr: expect.stringContaining('--force'),
    });
    expect(readFileSync(out, 'utf8')).toBe('mine');
    expect(timing('correct', DEMO, '--out', out, '--grid', '1/8', '--force').status).toBe(0);
  });

  it('does rules before the treatment, in their order, by name and from files', () => {
    const late = BUILT_IN_RULES.find((r) => r.name === 'Hats back');
    if (!late) throw new Error('There is no such rule.');
    const file = inFolder('later.json');
    writeFileSync(file, ruleToJson({ ...late, name: 'Later', then: [{ do: 'nudge-ticks', with: { by: 100 } }] }));
    const out = inFolder('ruled.mid');
    const flags = ['--rule', file, '--rule', 'every other one OUT', '--tracks', '3'];
    const { status, stderr } = timing('correct', DEMO, '--out', out, ...flags);
    expect({ status, stderr }).toMatchObject({ status: 0, stderr: expect.stringMatching(/Rule “Later”: \d+ notes\./) });
    const [was, is] = [DEMO, out].map((f) =>
      readSmf(readFileSync(f), 'x').song.tracks.map((t) => t.parts[0]?.notes ?? []),
    );
    // Other tracks stay; half of the kit's chords are gone, and its hats lie 100 ticks later.
    expect(is[1]).toEqual(was[1]);
    expect(is[3].length).toBeLessThan(was[3].length * 0.6);
    const hats = new Set(was[3].filter((n) => [42, 44, 46].includes(n.pitch)).map((n) => n.start + 100));
    const left = is[3].filter((n) => [42, 44, 46].includes(n.pitch));
    expect(left.length).toBeGreaterThan(50);
    for (const n of left) expect(hats.has(n.start)).toBe(true);
  });

  it('names a bad file and goes on with the others, over several workers', () => {
    writeFileSync(inFolder('bad.mid'), 'no music');
    const out = inFolder('many');
    const { status, stdout, stderr } = timing(
      'correct',
      DEMO,
      inFolder('bad.mid'),
      inFolder('none.mid'),
      '--out',
      out,
      '--recipe',
      'Latency away',
    );
    expect(status).toBe(1);
    expect(stderr).toMatch(/bad\.mid: The file does not begin/);
    expect(stderr).toMatch(/none\.mid: there is no such file/);
    expect(stdout).toMatch(/Electric piano .*lag 2[34](\.\d)? ms removed/);
    expect(existsSync(join(out, 'night-ferry.mid'))).toBe(true);
  });

  it('answers a command that it cannot read with a sentence and exit code 2', () => {
    for (const [args, sentence] of [
      [['correct', DEMO, '--out', 'x', '--grid', '1/7'], 'is not a grid'],
      [['correct', DEMO, '--out', 'x', '--strength', '8'], 'share from 0 to 1'],
      [['correct', DEMO], '--out'],
      [['analyse'], 'Name one or more'],
      [['mend'], 'no command'],
      [['correct', DEMO, '--out', 'x', '--recipe', 'nowhere.json'], 'no such file'],
      [['correct', DEMO, '--out', 'x', '--rule', 'nowhere.json'], 'no such file'],
      [['correct', DEMO, '--out', 'x', '--rule', DEMO], 'This is not a rule file'],
    ] as const) {
      expect(timing(...args)).toMatchObject({ status: 2, stderr: expect.stringContaining(sentence) });
    }
    expect(timing('--help')).toMatchObject({ status: 0, stdout: expect.stringContaining('Examples') });
  });
});

describe('nothing is written over', () => {
  const twin = join(folder, 'other');
  const files = () => [DEMO, join(twin, 'night-ferry.mid')];
  beforeAll(() => {
    mkdirSync(twin, { recursive: true });
    writeFileSync(join(twin, 'night-ferry.mid'), readFileSync(DEMO));
    writeFileSync(inFolder('file'), 'a file, not a folder');
  });

  it.each<[string, () => string[], string]>([
    [
      'files of one name from two folders',
      () => [...files(), '--out', inFolder('both'), '--force'],
      'into two folders',
    ],
    ['an input', () => [join(twin, 'night-ferry.mid'), '--out', twin, '--force'], 'would be written over'],
    [
      'the output by the report',
      () => [DEMO, '--out', inFolder('o.mid'), '--report', inFolder('o.mid'), '--force'],
      'is one of the MIDI files',
    ],
    [
      'the input by the report',
      () => [DEMO, '--out', inFolder('o.mid'), '--report', DEMO, '--force'],
      'is one of the MIDI files',
    ],
    ['a file in place of a folder', () => [DEMO, inFolder('x.mid'), '--out', inFolder('file')], 'is a file'],
    ['a folder below a file', () => [DEMO, inFolder('x.mid'), '--out', inFolder('file/below')], 'is a file'],
    ['a lag of a day', () => [DEMO, '--out', inFolder('o.mid'), '--lag', '99999999'], 'up to 60000'],
  ])('%s: a sentence says so before anything is done', (_, args, sentence) => {
    const { status, stderr } = timing('correct', ...args());
    expect({ status, stderr }).toMatchObject({ status: 2, stderr: expect.stringContaining(sentence) });
    expect(stderr).not.toContain('    at ');
    expect(existsSync(inFolder('o.mid'))).toBe(false);
    expect(readFileSync(inFolder('file'), 'utf8')).toBe('a file, not a folder');
    expect(startsOf(join(twin, 'night-ferry.mid'), 1)).toEqual(startsOf(DEMO, 1));
  });

  it('a folder that is missing is told as the folder, not as the input', () => {
    const { status, stderr } = timing('correct', DEMO, '--out', inFolder('no/such/x.mid'), '--grid', '1/8');
    expect(status).toBe(1);
    expect(stderr).toMatch(/the folder .*no\/such does not exist/);
  });

  it('a report that cannot be written is told, and the files are there', () => {
    const out = inFolder('reported.mid');
    const { status, stderr } = timing('correct', DEMO, '--out', out, '--report', inFolder('no/r.json'));
    expect(status).toBe(1);
    expect(stderr).toMatch(/The MIDI files were written/);
    expect(existsSync(out)).toBe(true);
  });
});

describe('a terminal', () => {
  it('gets nothing from a file that would steer it', () => {
    const { song } = readSmf(new Uint8Array(readFileSync(DEMO)), 'x');
    const tracks = song.tracks.map((t) => ({ ...t, name: `${t.name}\u001b[31m\u009b2J\u202e` }));
    const steering = { ...song, tracks };
    writeFileSync(inFolder('steering.mid'), writeSmf(steering, asPlayed(steering)));
    const { stdout } = timing('analyse', inFolder('steering.mid'), lateFile());
    expect(stdout).toContain('Marimba·[31m·2J·');
    expect(stdout).not.toMatch(/[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u202e]/);
  });
});

describe('a batch', () => {
  const job = (input: string, output: string): Job => ({
    input,
    output: inFolder(output),
    recipe: recipeFromFlags({ grid: '1/16' }),
    only: null,
    full: false,
    force: true,
  });

  it('stops where it is told to, with what was not begun left out', async () => {
    const stop = new AbortController();
    const jobs = Array.from({ length: 12 }, (_, i) => job(DEMO, `stop${i}.mid`));
    const outcomes = await runAll(jobs, { progress: (done) => done >= 2 && stop.abort(), stop: stop.signal }, THREAD);
    const done = outcomes.filter((o) => o?.ok).length;
    expect(done).toBeGreaterThanOrEqual(2);
    expect(done).toBeLessThan(12);
    expect(outcomes.slice(done).every((o) => o === undefined)).toBe(true);
  });

  it('goes on when one file is too much for the memory', async () => {
    const note = (id: number): Note => ({
      id,
      start: id,
      length: 1,
      pitch: id % 128,
      velocity: 9,
      channel: 0,
      release: 0,
    });
    const notes = Array.from({ length: 300_000 }, (_, i) => note(i));
    const part = newPart('p', 'Much', 0, 400_000, { notes });
    const much = { ...newSong('Much'), tracks: [newTrack('t', 'Much', { parts: [part] })], nextId: notes.length };
    writeFileSync(inFolder('much.mid'), writeSmf(much, asPlayed(much)));
    const jobs = [job(inFolder('much.mid'), 'm.mid'), job(DEMO, 'after.mid'), job(DEMO, 'after2.mid')];
    const batch = { progress: () => undefined, stop: new AbortController().signal };
    const outcomes = await runAll(jobs, batch, THREAD, { maxOldGenerationSizeMb: 40 });
    expect(outcomes.map((o) => o?.ok)).toEqual([false, true, true]);
    expect(outcomes[0]).toMatchObject({ reason: expect.stringContaining('not enough memory') });
  }, 60_000);
});

describe('files', () => {
  it('are never written over as an input, by no command and through no link', () => {
    const own = inFolder('own.mid');
    const link = inFolder('link.mid');
    copyFileSync(DEMO, own);
    symlinkSync(own, link);
    const before = readFileSync(own);
    for (const args of [
      ['fit', own, '--out', own, '--force'],
      ['render', own, '--out', own, '--force'],
      ['fit', link, '--out', own, '--force'],
      ['correct', link, '--out', own, '--force', '--grid', '1/16'],
      ['correct', own, '--out', link, '--force', '--grid', '1/16'],
      ['correct', own, '--out', inFolder('fine.mid'), '--force', '--report', link],
    ]) {
      const { status, stderr } = timing(...args);
      expect(`${args.join(' ')}: ${status}`).toBe(`${args.join(' ')}: 2`);
      expect(stderr).toMatch(/would be written over|is one of the MIDI files/);
      expect(readFileSync(own).equals(before)).toBe(true);
    }
  }, 60_000);

  it('that never end are refused in a sentence', () => {
    const { status, stderr } = timing('analyse', '/dev/zero');
    expect(status).toBe(1);
    expect(stderr).toContain('/dev/zero: this is larger than any file that is read here, or never ends.');
  });

  it('are whole under their name or not there, however early the program is ended', async () => {
    const out = inFolder('killed.mid');
    const whole = timing('correct', DEMO, '--out', inFolder('whole.mid'), '--grid', '1/16');
    expect(whole.status).toBe(0);
    const { length } = readFileSync(inFolder('whole.mid'));
    for (let k = 0; k < 6; k++) {
      rmSync(out, { force: true });
      const child = spawn(process.execPath, ['tools/timing.mjs', 'correct', DEMO, '--out', out, '--grid', '1/16']);
      const exited = new Promise((go) => child.on('exit', go));
      await new Promise((go) => setTimeout(go, 500 + k * 120));
      child.kill('SIGKILL');
      await exited;
      if (existsSync(out)) expect(readFileSync(out)).toHaveLength(length);
    }
  }, 60_000);
});

describe('flags', () => {
  it('read amounts with their units', () => {
    expect(readLimit('8ms', 'x')).toEqual({ value: 8, unit: 'ms' });
    expect(readLimit('40%', 'x')).toEqual({ value: 40, unit: 'percent' });
    expect(readTime('-8t', 'x')).toEqual({ value: -8, unit: 'ticks' });
    expect(readShare('80%', 'x')).toBe(0.8);
    expect(() => readTime('8%', 'push')).toThrow(UsageError);
  });

  it('build the treatment that they name', () => {
    const { treatment, auto } = recipeFromFlags({
      grid: 'auto',
      lag: 'auto',
      strength: '0.5',
      reach: '40%',
      lines: 'follow',
      lengths: 'legato:10ms',
      push: '-4t',
      velocity: '50%,+3',
      humanize: '5ms',
      shape: 'drift',
      seed: '9',
      groove: 'Night ferry',
      restart: 'song',
      doubles: 'drop',
    });
    expect(auto).toEqual({ grid: true, lag: true });
    expect(treatment.quantize).toMatchObject({
      on: true,
      strength: 0.5,
      lines: 'follow',
      reach: { value: 40, unit: 'percent' },
    });
    expect(treatment.quantize.grid.restart).toBe('song');
    expect(treatment.quantize.groove?.groove.name).toBe('Night ferry');
    expect(treatment.lengths).toMatchObject({ on: true, mode: 'legato', gap: { value: 10, unit: 'ms' } });
    expect(treatment.push.amount).toEqual({ value: -4, unit: 'ticks' });
    expect(treatment.velocity).toMatchObject({ on: true, scale: 0.5, level: 3 });
    expect(treatment.humanize).toMatchObject({ on: true, start: 5, shape: 'drift', seed: 9 });
    expect(treatment.settle.dropDoubles).toBe(true);
  });
});

describe('correct --with', () => {
  it('takes notes to another track’s where they are near, named by its number or its name', () => {
    const [out, named] = [inFolder('with.mid'), inFolder('named.mid')];
    const flags = ['--tracks', '2', '--grid', '1/16'];
    expect(timing('correct', DEMO, '--out', out, ...flags, '--with', '3:played').status).toBe(0);
    expect(timing('correct', DEMO, '--out', named, ...flags, '--with', 'brush kit:played').status).toBe(0);
    const bass = startsOf(out, 2);
    expect(startsOf(named, 2)).toEqual(bass);
    const kit = startsOf(DEMO, 3);
    const factor = readSmf(new Uint8Array(readFileSync(out)), 'x').song.ppq / 960;
    for (const start of bass) {
      const near = Math.min(...kit.map((k) => Math.abs(k - start)));
      expect(near <= 15 * factor || start % 240 === 0).toBe(true);
    }
    expect(timing('correct', DEMO, '--out', inFolder('no.mid'), ...flags, '--with', 'Tuba').stderr).toContain(
      'no track “Tuba”',
    );
  });
});
