/** A sound file is not what it should be. */
export class WavError extends Error {
  constructor(readonly code: 'not-wav' | 'cut-off' | 'kind' | 'rate') {
    super(`wav: ${code}`);
    this.name = 'WavError';
  }
}

/** Samples a second that recordings have. */
const RATES = { least: 4000, most: 768_000 };

export interface Recording {
  /** Both sides together. */
  readonly samples: Float32Array;
  /** Samples a second. */
  readonly rate: number;
}

/**
 * Reads a WAV file: PCM with 16, 24 or 32 bits or floating point, any channels (RIFF WAVE; Microsoft & IBM 1991, and the
 * extensible format of 2001).
 * @throws WavError
 */
export function readWav(bytes: Uint8Array): Recording {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const letters = (at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));
  if (bytes.length < 12 || letters(0) !== 'RIFF' || letters(8) !== 'WAVE') throw new WavError('not-wav');
  let format: { kind: number; channels: number; rate: number; bits: number } | null = null;
  for (let at = 12; at + 8 <= bytes.length;) {
    const size = view.getUint32(at + 4, true);
    const body = at + 8;
    if (letters(at) === 'fmt ') {
      if (body + 16 > bytes.length) throw new WavError('cut-off');
      const plain = view.getUint16(body, true);
      // The extensible format has the kind in its second half.
      const kind = plain === 0xfffe && size >= 26 ? view.getUint16(body + 24, true) : plain;
      format = {
        kind,
        channels: view.getUint16(body + 2, true),
        rate: view.getUint32(body + 4, true),
        bits: view.getUint16(body + 14, true),
      };
    } else if (letters(at) === 'data' && format) {
      if (format.rate < RATES.least || format.rate > RATES.most) throw new WavError('rate');
      const end = Math.min(bytes.length, body + size);
      return { samples: samplesOf(view, body, end, format), rate: format.rate };
    }
    at = body + size + (size & 1);
  }
  throw new WavError('cut-off');
}

function samplesOf(
  view: DataView,
  from: number,
  end: number,
  { kind, channels, bits }: { kind: number; channels: number; bits: number },
): Float32Array {
  const width = bits / 8;
  const isFloat = kind === 3 && bits === 32;
  if (channels < 1 || !(isFloat || (kind === 1 && [16, 24, 32].includes(bits)))) throw new WavError('kind');
  const read = (at: number): number => {
    if (isFloat) return view.getFloat32(at, true);
    if (bits === 16) return view.getInt16(at, true) / 0x8000;
    if (bits === 32) return view.getInt32(at, true) / 0x80000000;
    return ((view.getInt8(at + 2) << 16) | view.getUint16(at, true)) / 0x800000;
  };
  const count = Math.floor((end - from) / (width * channels));
  const samples = new Float32Array(count);
  for (let i = 0; i < count; i++) {
    let sum = 0;
    for (let c = 0; c < channels; c++) sum += read(from + (i * channels + c) * width);
    samples[i] = sum / channels;
  }
  return samples;
}
