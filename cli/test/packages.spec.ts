import { execFileSync, spawnSync } from 'node:child_process';
import { copyFileSync, existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readSongFile } from '@early-sparrow/core/keeping';
import { readSmf } from '@early-sparrow/core/smf';
import { noteCount } from '@early-sparrow/core/song';

const DEMO = 'app/public/demo/night-ferry.mid';
/** Packing, and installing what the packages need. */
const LONG = 240_000;

/** The examples of a page of the docs, by their headings. */
function examples(path: string): [string, string][] {
  const sections = readFileSync(path, 'utf8').split(/^## /m).slice(1);
  return sections.flatMap((s): [string, string][] => {
    const code = /```js\n([\s\S]*?)```/.exec(s)?.[1];
    return code ? [[s.slice(0, s.indexOf('\n')), code]] : [];
  });
}

describe('the packages, installed in an empty folder', () => {
  const folder = mkdtempSync(join(tmpdir(), 'early-sparrow-packages-'));
  const run = (...args: string[]) => spawnSync(process.execPath, args, { cwd: folder, encoding: 'utf8' });

  beforeAll(() => {
    const packed = execFileSync(process.execPath, ['tools/pack.mjs'], { encoding: 'utf8' }).trim().split('\n');
    writeFileSync(join(folder, 'package.json'), '{ "private": true, "type": "module" }');
    const flags = ['--prefer-offline', '--no-audit', '--no-fund', '--loglevel=error'];
    execFileSync('npm', ['install', ...flags, ...packed], { cwd: folder, stdio: 'pipe' });
    copyFileSync(DEMO, join(folder, 'take.mid'));
  }, LONG);

  it(
    'give a command that corrects a file',
    () => {
      const command = join(folder, 'node_modules/.bin/early-sparrow');
      execFileSync(command, ['correct', 'take.mid', '--out', 'by-command.mid', '--grid', '1/16'], { cwd: folder });
      const { song } = readSmf(readFileSync(join(folder, 'by-command.mid')), 'x');
      const [part] = song.tracks[1].parts;
      expect(part.notes.every((n) => n.start % 240 === 0)).toBe(true);
      expect(execFileSync(command, ['--help'], { encoding: 'utf8' })).toContain('early-sparrow correct');
    },
    LONG,
  );

  it(
    'run each example of the docs',
    async () => {
      const all = examples('docs/core.md');
      expect(all.map(([name]) => name)).toEqual(['Read', 'Analyse', 'Correct', 'Humanize', 'Write']);
      const said: Record<string, string> = {};
      for (const [name, code] of all) {
        writeFileSync(join(folder, `${name}.js`), code);
        const { status, stdout, stderr } = run(`${name}.js`);
        expect([name, status, stderr]).toEqual([name, 0, '']);
        said[name] = stdout;
      }
      expect(said['Read']).toMatch(/Marimba 435/);
      expect(said['Analyse']).toMatch(/^1\/16 -1\d\.\d true/);
      expect(said['Correct']).toMatch(/Brush kit: 1\/16 ~62/);
      const read = (name: string) => readSmf(readFileSync(join(folder, name)), 'x').song;
      const starts = (name: string) => read(name).tracks[1].parts[0].notes.map((n) => n.start);
      expect(starts('loose.mid')).not.toEqual(starts('take.mid'));
      expect(starts('again.mid')).toEqual(starts('take.mid'));
      const { history } = await readSongFile(readFileSync(join(folder, 'take.sparrow')));
      expect(noteCount(history.song.tracks[1])).toBe(435);
    },
    LONG,
  );

  it(
    'have types that a strict program compiles with',
    () => {
      const program = `import { readSmf } from '@early-sparrow/core/smf';
import { analysePart, type Analysis } from '@early-sparrow/core/insight';
import { findTrack, type Song } from '@early-sparrow/core/song';
const song: Song = readSmf(new Uint8Array(), 'x').song;
const analysis: Analysis = analysePart(song.tracks[0].parts[0], song);
export const text: string = analysis.fits[0].text;
// @ts-expect-error a track is known by its id
findTrack(song, 3);
`;
      writeFileSync(join(folder, 'program.ts'), program);
      for (const [compiler, module, resolution] of [
        ['typescript', 'nodenext', 'nodenext'],
        ['typescript-native', 'es2022', 'bundler'],
      ]) {
        const flags = [
          '--noEmit',
          '--strict',
          '--target',
          'es2022',
          '--module',
          module,
          '--moduleResolution',
          resolution,
        ];
        const { status, stdout } = run(
          join(process.cwd(), 'node_modules', compiler, 'bin/tsc'),
          ...flags,
          'program.ts',
        );
        expect([module, status, stdout]).toEqual([module, 0, '']);
      }
      expect(existsSync(join(folder, 'node_modules/@early-sparrow/core/smf/index.d.ts'))).toBe(true);
    },
    LONG,
  );
});
