/** Beyond it the audio clock was stopped in between, in seconds. */
const JUMP = 0.05;
const SMOOTHING = 0.1;
/** So many stretches of one offset are remembered: what is played in is told a moment after it was heard. */
const STRETCHES = 16;

/** What an audio context tells of its time. */
export type TellsTime = Pick<AudioContext, 'getOutputTimestamp' | 'currentTime' | 'outputLatency' | 'baseLatency'>;

/**
 * What is heard of the audio clock at a time of the page's own. Where the audio thread was stopped, what was played
 * before keeps the offset that it was played with, although the page gets to it only after; but no later than what is
 * heard now can it have been heard.
 */
export class HeardClock {
  /** From when on, in ms of the page's clock, which offset holds; the newest last. */
  private stretches: { readonly since: number; offset: number }[] = [];

  /** Whether it was looked at in this turn of the page already. */
  private looked = false;

  constructor(private readonly context: TellsTime) {}

  /** What comes next is reckoned anew. */
  begin(): void {
    this.stretches = [];
    this.looked = false;
  }

  /**
   * Seconds of the audio clock that are heard, less the page's own seconds; smoothed, since it is told in steps, and the
   * same for all who ask in one turn of the page.
   * @param at of the page's own clock, in ms
   */
  offset(at: number): number {
    this.look();
    const { stretches } = this;
    const of = Math.max(
      0,
      stretches.findLastIndex(({ since }) => since <= at),
    );
    const later = stretches.slice(of + 1).map(({ since, offset }) => (since - at) / 1000 + offset);
    return Math.min(stretches[of].offset, ...later);
  }

  private look(): void {
    if (this.looked) return;
    this.looked = true;
    queueMicrotask(() => (this.looked = false));
    const told = this.told();
    const last = this.stretches.at(-1);
    const by = last ? told - last.offset : Infinity;
    if (last && Math.abs(by) <= JUMP) {
      last.offset += by * SMOOTHING;
      return;
    }
    // Sound does not run ahead: where it seems to, what was told before was too little.
    const before = by > 0 ? [] : this.stretches.slice(1 - STRETCHES);
    this.stretches = [...before, { since: performance.now(), offset: told }];
  }

  private told(): number {
    const { contextTime = 0, performanceTime = 0 } = this.context.getOutputTimestamp();
    if (contextTime > 0 && performanceTime > 0) return contextTime - performanceTime / 1000;
    const { currentTime, outputLatency, baseLatency } = this.context;
    return currentTime - (outputLatency || baseLatency || 0) - performance.now() / 1000;
  }
}
