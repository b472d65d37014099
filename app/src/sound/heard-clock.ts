/** Beyond it the audio clock was stopped in between, in seconds. */
const JUMP = 0.05;
const SMOOTHING = 0.1;

/** What an audio context tells of its time. */
export type TellsTime = Pick<AudioContext, 'getOutputTimestamp' | 'currentTime' | 'outputLatency' | 'baseLatency'>;

/**
 * Compares the audio clock with the page's. All calls in one turn of the page get the same answer. If the sound stops for
 * a moment, two readings differ: a note would then not be recorded at the place that the player heard.
 */
export class HeardClock {
  private known: number | null = null;
  /** Whether the audio clock was looked at in this turn of the page already. */
  private looked = false;

  constructor(private readonly context: TellsTime) {}

  /** What comes next is reckoned anew. */
  begin(): void {
    this.known = null;
    this.looked = false;
  }

  /** Audio clock of what is heard, minus the page's clock, in seconds. Smoothed, because browsers tell it in steps. */
  offset(): number {
    if (this.known !== null && this.looked) return this.known;
    this.looked = true;
    queueMicrotask(() => (this.looked = false));
    const told = this.told();
    const before = this.known ?? told;
    const by = told - before;
    this.known = Math.abs(by) > JUMP ? told : before + by * SMOOTHING;
    return this.known;
  }

  private told(): number {
    const { contextTime = 0, performanceTime = 0 } = this.context.getOutputTimestamp();
    if (contextTime > 0 && performanceTime > 0) return contextTime - performanceTime / 1000;
    const { currentTime, outputLatency, baseLatency } = this.context;
    return currentTime - (outputLatency || baseLatency || 0) - performance.now() / 1000;
  }
}
