/** Beyond it the audio clock was stopped in between, in seconds. */
const JUMP = 0.05;
const SMOOTHING = 0.1;

/** What an audio context tells of its time. */
export type TellsTime = Pick<AudioContext, 'getOutputTimestamp' | 'currentTime' | 'outputLatency' | 'baseLatency'>;

/**
 * What is heard of the audio clock, held against the page's own. All who ask in one turn of the page get one answer: a
 * player who hears a place and what they play there would lie apart, if the sound was found to have stopped between the two.
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

  /** Seconds of the audio clock that are heard, less the page's own seconds; smoothed, since it is told in steps. */
  offset(): number {
    if (this.known !== null && this.looked) return this.known;
    this.looked = true;
    queueMicrotask(() => (this.looked = false));
    const told = this.told();
    const by = told - (this.known ?? -Infinity);
    this.known = this.known === null || Math.abs(by) > JUMP ? told : this.known + by * SMOOTHING;
    return this.known;
  }

  private told(): number {
    const { contextTime = 0, performanceTime = 0 } = this.context.getOutputTimestamp();
    if (contextTime > 0 && performanceTime > 0) return contextTime - performanceTime / 1000;
    const { currentTime, outputLatency, baseLatency } = this.context;
    return currentTime - (outputLatency || baseLatency || 0) - performance.now() / 1000;
  }
}
