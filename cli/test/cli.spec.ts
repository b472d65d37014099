import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readSmf } from '@early-sparrow/core/smf';
import { recipeFromFlags } from '../src/recipe';
import { readLimit, readShare, readTime, UsageError } from '../src/units';

const DEMO = 'app/public/demo/night-ferry.mid';
const folder = mkdtempSync(join(tmpdir(), 'early-sparrow-'));
const inFolder = (name: string) => join(folder, name);

function timing(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(process.execPath, ['tools/timing.mjs', ...args], { encoding: 'utf8' });
  return { status, stdout, stderr };
}

const startsOf = (path: string, track: number) =>
  readSmf(new Uint8Array(readFileSync(path)), 'x').song.tracks[track].parts[0].notes.map((n) => n.start);

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
    // One file and no terminal: the same without asking.
    expect(JSON.parse(timing('analyse', DEMO).stdout)).toEqual(documents[0]);
  });

  it('prints a table for several files', () => {
    const { stdout } = timing('analyse', DEMO, DEMO);
    expect(stdout).toContain('grids, best first');
    expect(stdout).toContain('11.2 ms early');
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
    expect(stdout).toContain('lag 23.7 ms taken away');
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
    ] as const) {
      expect(timing(...args)).toMatchObject({ status: 2, stderr: expect.stringContaining(sentence) });
    }
    expect(timing('--help')).toMatchObject({ status: 0, stdout: expect.stringContaining('Examples') });
  });
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
