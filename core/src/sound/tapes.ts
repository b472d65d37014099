import type { Ms } from '../time';
import type { MixTrack } from './score';
import { placeIn, type SoundFile, type Strip } from './strips';

/** One strip that is being read. Places in samples of its file. */
interface Reading {
  readonly track: string;
  readonly file: SoundFile;
  /** The sample that comes next, fractional. */
  place: number;
  /** Samples of the file a frame. */
  step: number;
  gain: number;
}

/** A reading that is left off fades for so long, and one that begins in the middle of a file, in seconds: neither clicks. */
const FADE_OUT = 0.003;
const FADE_IN = 0.0005;
/** A reading goes on where it is this close to where it should be, in samples; else it begins anew. */
const SAME = 0.5;

/**
 * Plays sound files along with a song, like tapes whose speed follows the song's: a file that runs slower sounds lower.
 * That keeps every attack where it is, to the sample, which a stretching that keeps the pitch would not.
 */
export class Tapes {
  private readonly strips = new Map<string, readonly Strip[]>();
  private readonly files = new Map<string, SoundFile>();
  private readings: Reading[] = [];
  private leaving: Reading[] = [];

  /** @param rate frames a second of the device */
  constructor(private readonly rate: number) {}

  setTrack(id: string, strips: readonly Strip[]): void {
    if (strips.length > 0) this.strips.set(id, strips);
    else this.strips.delete(id);
  }

  /** Takes a file into use; null lets it go. */
  setFile(id: string, file: SoundFile | null): void {
    if (file) this.files.set(id, file);
    else this.files.delete(id);
  }

  /**
   * Adds some frames to what is there.
   * @param ms time of the song at the first frame; null while it stands still
   * @param msPerFrame time of the song for each frame
   */
  render(
    left: Float32Array,
    right: Float32Array,
    from: number,
    count: number,
    ms: Ms | null,
    msPerFrame: number,
    mixOf: (track: string) => MixTrack | undefined,
  ): void {
    if (this.strips.size === 0 && this.readings.length + this.leaving.length === 0) return;
    const heard = new Set<Reading>();
    if (ms !== null) {
      for (const [track, strips] of this.strips) {
        const mix = mixOf(track);
        if (mix?.audible === false) continue;
        for (const strip of strips) this.play(track, strip, mix, { left, right, from, count, ms, msPerFrame }, heard);
      }
    }
    this.leaving.push(...this.readings.filter((r) => !heard.has(r)));
    this.readings = [...heard];
    this.leaving = this.leaving.filter((r) => {
      this.add(r, mixOf(r.track), left, right, from, count, 0);
      return r.gain > 0;
    });
  }

  private play(
    track: string,
    strip: Strip,
    mix: MixTrack | undefined,
    { left, right, from, count, ms, msPerFrame }: Stretch,
    heard: Set<Reading>,
  ): void {
    const file = this.files.get(strip.file);
    if (!file) return;
    for (let done = 0; done < count;) {
      const now = ms + done * msPerFrame;
      const place = placeIn(strip, now);
      if (!place) {
        // It may begin within this stretch.
        const wait = Math.ceil((strip.at[0] - now) / msPerFrame);
        if (wait <= 0 || done + wait >= count) return;
        done += wait;
        continue;
      }
      const frames = Math.min(count - done, Math.max(1, Math.ceil((place.until - now) / msPerFrame)));
      const reading = this.reading(track, file, (place.file * file.rate) / 1000, heard);
      reading.step = (place.speed * msPerFrame * file.rate) / 1000;
      this.add(reading, mix, left, right, from + done, frames, 1);
      heard.add(reading);
      done += frames;
    }
  }

  /** The reading that is at a place of a file already, or one that begins there. */
  private reading(track: string, file: SoundFile, place: number, heard: ReadonlySet<Reading>): Reading {
    const near = (r: Reading) => r.track === track && r.file === file && Math.abs(r.place - place) <= SAME;
    const known = this.readings.find(near) ?? [...heard].find(near);
    if (!known) return { track, file, place, step: 0, gain: place < 1 ? 1 : 0 };
    known.place = place;
    return known;
  }

  /** Reads some frames on. @param target 1 to be heard, 0 to fade away */
  private add(
    reading: Reading,
    mix: MixTrack | undefined,
    left: Float32Array,
    right: Float32Array,
    from: number,
    count: number,
    target: 0 | 1,
  ): void {
    const { file, step } = reading;
    const fade = target === 1 ? 1 / (FADE_IN * this.rate) : -1 / (FADE_OUT * this.rate);
    const { gain = 1, pan = 0 } = mix ?? {};
    // As it was made in the middle; towards a side the other one gets softer.
    const [l, r] = [gain * Math.min(1, 1 - pan), gain * Math.min(1, 1 + pan)];
    let { place, gain: faded } = reading;
    for (let i = from; i < from + count; i++) {
      left[i] += sampleAt(file.left, place) * l * faded;
      right[i] += sampleAt(file.right, place) * r * faded;
      place += step;
      faded = Math.min(1, Math.max(0, faded + fade));
    }
    reading.place = place;
    reading.gain = faded;
  }
}

interface Stretch {
  readonly left: Float32Array;
  readonly right: Float32Array;
  readonly from: number;
  readonly count: number;
  readonly ms: Ms;
  readonly msPerFrame: number;
}

/** A value between samples: cubic through the four around it (Catmull & Rom 1974), the sample itself where it is on one. */
function sampleAt(samples: Float32Array, place: number): number {
  const i = Math.floor(place);
  const t = place - i;
  const b = samples[i] ?? 0;
  if (t === 0) return b;
  const a = samples[i - 1] ?? 0;
  const c = samples[i + 1] ?? 0;
  const d = samples[i + 2] ?? 0;
  return b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)));
}
