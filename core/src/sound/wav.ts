/** Bits of a sample of a WAV file. */
export type WavBits = 16 | 24;

const HEADER = 44;

/**
 * A stereo WAV file (RIFF WAVE, PCM; Microsoft & IBM, Multimedia Programming Interface and Data Specifications 1.0, 1991).
 * @param left and @param right samples from −1 to 1; what lies beyond is cut off
 */
export function writeWav(left: Float32Array, right: Float32Array, rate: number, bits: WavBits): Uint8Array {
  const bytes = bits / 8;
  const size = left.length * 2 * bytes;
  const data = new Uint8Array(HEADER + size + (size & 1));
  const view = new DataView(data.buffer);
  const text = (at: number, letters: string) => {
    for (let i = 0; i < letters.length; i++) data[at + i] = letters.charCodeAt(i);
  };
  text(0, 'RIFF');
  view.setUint32(4, data.length - 8, true);
  text(8, 'WAVEfmt ');
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, 2, true);
  view.setUint32(24, rate, true);
  view.setUint32(28, rate * 2 * bytes, true);
  view.setUint16(32, 2 * bytes, true);
  view.setUint16(34, bits, true);
  text(36, 'data');
  view.setUint32(40, size, true);
  const most = 2 ** (bits - 1) - 1;
  let at = HEADER;
  for (let i = 0; i < left.length; i++) {
    for (const sample of [left[i], right[i]]) {
      const value = Math.round(Math.max(-1, Math.min(1, sample)) * most);
      view.setInt16(at, bits === 16 ? value : value >> 8, true);
      if (bits === 24) {
        data[at + 2] = (value >> 16) & 0xff;
        data[at + 1] = (value >> 8) & 0xff;
        data[at] = value & 0xff;
      }
      at += bytes;
    }
  }
  return data;
}
