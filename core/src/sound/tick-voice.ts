import type { TickKind } from './score';

const { PI, exp, sin } = Math;

/** Pitch in Hz and loudness of each kind of tick. */
const SOUNDS: Readonly<Record<TickKind, readonly [hz: number, gain: number]>> = {
  bar: [1760, 0.5],
  beat: [1174.66, 0.32],
  part: [880, 0.16],
  line: [2637, 0.3],
};
const DECAY_SECONDS = 0.012;
const LENGTH_SECONDS = 0.06;

/** The click: a tick begins at full loudness with its first sample, so that its place is exact to the sample. */
export class TickVoice {
  private phase = 0;
  private step = 0;
  private level = 0;
  private left = 0;
  private readonly fade: number;

  constructor(private readonly rate: number) {
    this.fade = exp(-1 / (DECAY_SECONDS * rate));
  }

  strike(kind: TickKind): void {
    const [hz, gain] = SOUNDS[kind];
    this.step = (2 * PI * hz) / this.rate;
    // A cosine: it is loudest at once.
    this.phase = PI / 2;
    this.level = gain;
    this.left = Math.round(LENGTH_SECONDS * this.rate);
  }

  render(left: Float32Array, right: Float32Array, from: number, count: number, gain: number): void {
    const end = from + Math.min(count, this.left);
    for (let i = from; i < end; i++) {
      const sample = sin(this.phase) * this.level * gain;
      left[i] += sample;
      right[i] += sample;
      this.phase += this.step;
      this.level *= this.fade;
    }
    this.left -= Math.min(count, this.left);
  }

  silence(): void {
    this.left = 0;
  }
}
