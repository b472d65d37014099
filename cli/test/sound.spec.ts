import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { newPart, newSong, newTrack, tempoOf, type Song } from '@early-sparrow/core/song';
import { writeWav } from '@early-sparrow/core/sound';
import { note } from '../../core/test/build';
import { drumLoop, LOOP_RATE } from '../../core/test/drum-loop';

const folder = mkdtempSync(join(tmpdir(), 'early-sparrow-sound-'));
const inFolder = (name: string) => join(folder, name);

function timing(...args: string[]) {
  return spawnSync(process.execPath, ['tools/timing.mjs', ...args], { encoding: 'utf8' });
}

/** Swung eighths over a change of tempo, each note apart from the others. */
function swungSong(): Song {
  const notes = Array.from({ length: 24 }, (_, i) =>
    note(i, Math.floor(i / 2) * 960 + (i % 2) * 600, { length: 200, pitch: 60 + ((i * 7) % 20), velocity: 100 }),
  );
  const tempo = [
    { tick: 0, usPerQuarter: 500_000 },
    { tick: 5760, usPerQuarter: 631_579 },
  ];
  const part = newPart('p', 'Part', 0, 12_000, { notes });
  return { ...newSong('Swung'), tempo, tracks: [newTrack('t', 'Part', { parts: [part] })], nextId: 50 };
}

describe('render', () => {
  it('has its onsets where the notes are, swung and over a change of tempo, as a detector hears them', () => {
    // aubioonset (Debian package aubio-tools), hop of 64 frames.
    const song = swungSong();
    const [file, out] = [inFolder('swung.mid'), inFolder('swung.wav')];
    writeFileSync(file, writeSmf(song, asPlayed(song)));
    for (const voices of ['plain', 'bank']) {
      const { status, stdout } = timing('render', file, '--out', out, '--voices', voices, '--force');
      expect(status).toBe(0);
      expect(stdout).toMatch(/s, 48 kHz, 16 bit/);
      const text = execFileSync('aubioonset', ['-i', out, '-H', '64', '-B', '512', '-O', 'hfc', '-M', '0.05']);
      const found = String(text).trim().split('\n').map(Number);
      const wanted = song.tracks[0].parts[0].notes.map((n) => tempoOf(song).toMs(n.start) / 1000);
      const off = wanted
        .map((s) => found.reduce((best, f) => (Math.abs(f - s) < Math.abs(best) ? f - s : best), Infinity))
        .sort((a, b) => a - b);
      // A detector hears each voice some ms after it begins, always the same; within its hop all are alike.
      const usual = off[off.length >> 1];
      expect(usual).toBeLessThan(voices === 'plain' ? 0.004 : 0.01);
      const alike = off.filter((d) => Math.abs(d - usual) <= 64 / 48_000);
      expect(alike.length).toBeGreaterThanOrEqual(wanted.length - 1);
    }
  });

  it('says what is wrong with what it is asked', () => {
    expect(timing('render').stderr).toContain('Name one MIDI file to render');
    const flags = ['--out', inFolder('x.wav')];
    const demo = 'app/public/demo/night-ferry.mid';
    expect(timing('render', demo, ...flags, '--rate', '8000').stderr).toContain('write 44100 or 48000');
    expect(timing('render', 'package.json', ...flags).status).toBe(1);
  });
});

describe('hits', () => {
  it('of a drum loop are a MIDI file whose swing is measured within a point', () => {
    const { samples } = drumLoop(0.625);
    const [file, out] = [inFolder('loop.wav'), inFolder('loop.mid')];
    writeFileSync(file, writeWav(samples, samples, LOOP_RATE, 24));
    const { status, stdout } = timing('hits', file, '--out', out);
    expect(status).toBe(0);
    expect(stdout).toMatch(/3\d hits, 2 bars at 120.00 BPM/);
    expect(readSmf(new Uint8Array(readFileSync(out)), 'x').song.tracks).toHaveLength(2);
    const [track] = JSON.parse(timing('analyse', out, '--json').stdout).tracks;
    expect(Math.abs(track.swing.share - 0.625)).toBeLessThan(0.01);
  });

  it('are refused with a sentence where there is no sound, or none is struck', () => {
    const quiet = inFolder('quiet.wav');
    writeFileSync(quiet, writeWav(new Float32Array(9000), new Float32Array(9000), LOOP_RATE, 16));
    expect(timing('hits', quiet, '--out', inFolder('q.mid')).stderr).toContain('No hits were found');
    expect(timing('hits', 'package.json', '--out', inFolder('q.mid')).stderr).toContain('is not a WAV file');
  });
});
