import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { newPart, newSong, newTrack, tempoOf, type Note, type Song } from '@early-sparrow/core/song';
import { freeTake } from '../../tools/accuracy/free';

const DEMO = 'app/public/demo/night-ferry.mid';
const folder = mkdtempSync(join(tmpdir(), 'early-sparrow-'));
const inFolder = (name: string) => join(folder, name);

function timing(...args: string[]) {
  return spawnSync(process.execPath, ['tools/timing.mjs', ...args], { encoding: 'utf8' });
}

describe('fit', () => {
  it('writes bars for a take without a click; every note sounds where it did', () => {
    const take = freeTake(12);
    const notes = take.onsets.map((o, i): Note => {
      const start = Math.round((o.ms * 960) / 500);
      return { id: i, start, length: 100, pitch: 60 + (i % 7), velocity: o.velocity, channel: 0, release: 64 };
    });
    const part = newPart('p', 'Free', 0, notes[notes.length - 1].start + 960, { notes });
    const song = { ...newSong('Free'), tracks: [newTrack('t', 'Free', { parts: [part] })], nextId: notes.length };
    const [file, out] = [inFolder('free.mid'), inFolder('fitted.mid')];
    writeFileSync(file, writeSmf(song, asPlayed(song)));
    const { status, stdout } = timing('fit', file, '--out', out, '--tempo', String(Math.round(take.bpm)));
    expect(status).toBe(0);
    expect(stdout).toMatch(/\d+ beats at about \d+\.\d BPM, 4 a bar; \d+ tempi/);
    const read = (path: string) => readSmf(new Uint8Array(readFileSync(path)), 'x').song;
    const seconds = (s: Song) =>
      s.tracks.flatMap((t) => t.parts.flatMap((p) => p.notes.map((n) => tempoOf(s).toMs(n.start))));
    const [before, after] = [seconds(read(file)), seconds(read(out))];
    after.forEach((ms, i) => expect(Math.abs(ms - before[i])).toBeLessThanOrEqual(0.5));
    expect(read(out).tempo.length).toBeGreaterThan(5);
    expect(stdout).toMatch(/Could also be .* BPM .*\(--reading 2\)/);
    const other = timing('fit', file, '--out', inFolder('other.mid'), '--reading', '2');
    expect(other.stdout).toContain('(--reading 1)');
    expect(other.stdout).not.toContain('(--reading 2)');
    // After a fermata the bars begin anew: the bar before is as long as it came to be.
    const anew = timing(
      'fit',
      file,
      '--out',
      inFolder('anew.mid'),
      '--downbeat',
      '1',
      '--downbeat',
      '8',
      '--meter',
      '4',
    );
    expect(anew.status).toBe(0);
    expect(read(inFolder('anew.mid')).meter.map((m) => m.numerator)).toEqual(expect.arrayContaining([4, 3]));
    const wrong = timing('fit', file, '--out', inFolder('no.mid'), '--downbeat', '8', '--downbeat', '3');
    expect(wrong.stderr).toContain('name the beats in their order');
    const steady = timing('fit', file, '--out', inFolder('steady.mid'), '--steady', '100%');
    expect(steady.status).toBe(0);
    // What is told is what is in the file.
    expect(steady.stdout).toMatch(/ 1 tempi, (\d+\.\d) to \1 BPM/);
    expect(read(inFolder('steady.mid')).tempo).toHaveLength(1);
  });

  it('says what is wrong with what it is asked', () => {
    expect(timing('fit').stderr).toContain('Name one MIDI file');
    expect(timing('fit', DEMO).stderr).toContain('--out');
    expect(timing('fit', DEMO, '--out', inFolder('x.mid'), '--tempo', 'fast').stderr).toContain('write a tempo');
    expect(timing('fit', DEMO, '--out', inFolder('x.mid'), '--track', '0').stderr).toContain(
      'has no track 0 with notes',
    );
  });
});
