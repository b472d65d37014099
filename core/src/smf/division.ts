import { MAX_DELTA } from './encode';
import { SmfError, type SmfNotice } from './problem';

/** A file's unit of time as the song keeps it. */
export interface Division {
  /** Ticks a quarter note in the file. */
  readonly ppq: number;
  /** What positions are multiplied by, so that a quarter has at least 960 ticks. */
  readonly factor: number;
  /** The one tempo of a file that counts in seconds; null where the file's own tempi hold. */
  readonly usPerQuarter: number | null;
  readonly notice: SmfNotice | null;
}

const WANTED_PPQ = 960;

/**
 * Reads the two division bytes of a header.
 * @param longestDelta longest distance between events; it must still fit a file after the factor
 * @throws SmfError for a frame rate that does not exist
 */
export function readDivision(bytes: number, longestDelta: number): Division {
  if (bytes & 0x8000) return smpteDivision(bytes);
  const factor = Math.ceil(WANTED_PPQ / bytes);
  if (longestDelta * factor <= MAX_DELTA) return { ppq: bytes, factor, usPerQuarter: null, notice: null };
  const notice: SmfNotice = {
    code: 'coarse-ticks',
    track: null,
    offset: 12,
    text: `The file has pauses so long that its ${bytes} ticks a quarter note could not be refined; small moves are rounded to them.`,
  };
  return { ppq: bytes, factor: 1, usPerQuarter: null, notice };
}

/** SMPTE division: ticks are parts of a video frame, so a fixed 120 BPM makes them ticks of a quarter note. */
function smpteDivision(bytes: number): Division {
  const rate = 0x100 - (bytes >> 8);
  const perFrame = bytes & 0xff;
  if (![24, 25, 29, 30].includes(rate) || perFrame === 0) {
    throw new SmfError('bad-header', 12, `The file counts time in ${rate} frames a second, which is not a frame rate.`);
  }
  // Rate 29 means 30 000/1001 frames a second (29.97 drop frame).
  const whole = rate === 29 ? 30 : rate;
  const perSecond = whole * perFrame;
  const ppq = perSecond % 2 === 0 ? perSecond / 2 : perSecond;
  const seconds = ppq / perSecond;
  const usPerQuarter = Math.round(seconds * 1e6 * (rate === 29 ? 1.001 : 1));
  return {
    ppq,
    factor: Math.max(1, Math.ceil(WANTED_PPQ / ppq)),
    usPerQuarter,
    notice: {
      code: 'smpte',
      track: null,
      offset: 12,
      text: `The file counts time in video frames (${rate === 29 ? '29.97' : rate} a second), not in beats. It was opened at ${Math.round(60e6 / usPerQuarter)} BPM with every time kept; bars and tempo changes in it do not count.`,
    },
  };
}
