import type { PracticeMessage } from '@early-sparrow/core/record';
import type { Heard, InputSource } from './source';

/** Where the song is heard at a time of the page's clock; null while it stands still. */
export type HeardAt = (at: number) => { readonly ms: number; readonly round: number } | null;

/** How often it looks where the song is, in ms. */
const LOOKS = 10;

/** A simulated keyboard with a player at it, who hears the song and plays along. */
export class PracticeSource implements InputSource {
  readonly id = 'practice';
  readonly name = 'Practice player';

  constructor(
    /** What is played in a round of the loop. */
    private readonly messages: (round: number) => readonly PracticeMessage[],
    private readonly heardAt: HeardAt,
  ) {}

  listen(heard: Heard): () => void {
    let last: { ms: number; round: number } | null = null;
    const timer = setInterval(() => {
      const at = performance.now();
      const now = this.heardAt(at);
      if (!now) {
        last = null;
        return;
      }
      // After a jump or a new round it plays on from there.
      const from = last && now.round === last.round && now.ms >= last.ms ? last.ms : now.ms - LOOKS;
      for (const { ms, bytes } of this.messages(now.round))
        if (ms > from && ms <= now.ms) heard(bytes, at - (now.ms - ms));
      last = { ...now };
    }, LOOKS);
    return () => clearInterval(timer);
  }
}
