import type { SoundFile } from '@early-sparrow/core/sound';

/** Sound files are decoded at this rate, in Hz. */
const RATE = 48_000;

/** Decodes a sound file of any kind that the browser knows. Its first two channels are heard. Rejects for others. */
export async function decode(bytes: ArrayBuffer): Promise<SoundFile> {
  const context = new OfflineAudioContext(1, 1, RATE);
  // The browser takes away what it decodes.
  const buffer = await context.decodeAudioData(bytes.slice(0));
  const left = buffer.getChannelData(0).slice();
  const right = buffer.numberOfChannels > 1 ? buffer.getChannelData(1).slice() : left;
  return { left, right, rate: buffer.sampleRate };
}

/** Its channels, each once: both sides of what has one are the same. */
export function sidesOf({ left, right }: SoundFile): Float32Array[] {
  return left === right ? [left] : [left, right];
}
