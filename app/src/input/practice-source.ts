import { isNoteOff, isNoteOn, type PracticeMessage } from '@early-sparrow/core/record';
import type { Heard, InputSource } from './source';

/** Where the song is heard at a time of the page's clock; null while it stands still. */
export type HeardAt = (at: number) => { readonly ms: number; readonly round: number } | null;

/** How often it looks where the song is, in ms. */
const LOOKS = 10;
/** Farther ahead than this the song went elsewhere, if somebody sent it there just now. In ms. */
const AHEAD = 2000;
/** The song seems to go back by so much where the sound stopped for a moment, in ms. */
const SLIP = 500;
/** A jump is heard within this time, in ms. */
const JUMPS = 1000;

/** A loop in ms of the song. */
interface Loop {
  readonly from: number;
  readonly to: number;
}

/** A simulated keyboard with a player at it, who hears the song and plays along. */
export class PracticeSource implements InputSource {
  readonly id = 'practice';
  readonly name = 'Practice player';

  constructor(
    /** What is played in a round of the loop. */
    private readonly messages: (round: number) => readonly PracticeMessage[],
    private readonly heardAt: HeardAt,
    private readonly loop: () => Loop | null = () => null,
    /** Another value each time that the song goes elsewhere. */
    private readonly jumps: () => unknown = () => null,
  ) {}

  listen(heard: Heard): () => void {
    // Time that goes on through the turns of the loop, in ms.
    let last: number | null = null;
    let [jump, jumped] = [this.jumps(), -Infinity];
    const held = new Set<number>();
    const play: Heard = (bytes, at) => {
      if (isNoteOn(bytes)) held.add(bytes[1]);
      else if (isNoteOff(bytes)) held.delete(bytes[1]);
      heard(bytes, at);
    };
    /** Where the song went elsewhere, a key that was held would never be let go. */
    const letGo = (at: number): void => {
      for (const key of [...held]) play([0x80, key, 64], at);
    };
    const timer = setInterval(() => {
      const at = performance.now();
      const now = this.heardAt(at);
      if (!now) {
        letGo(at);
        last = null;
        return;
      }
      const loop = this.loop();
      const length = loop ? loop.to - loop.from : 0;
      const time = now.ms + now.round * length;
      if (this.jumps() !== jump) [jump, jumped] = [this.jumps(), at];
      const mayJump = at - jumped <= JUMPS;
      // Where nobody went back, what was played already is not played again.
      if (last !== null && time < last && time > last - SLIP && !mayJump) return;
      // After a jump the player goes on from there; else nothing is left out, however late the look.
      const goesOn = last !== null && time >= last && (!mayJump || time - last < AHEAD);
      const from = goesOn && last !== null ? last : time - LOOKS;
      if (!goesOn) letGo(at - LOOKS);
      for (const round of loop ? [now.round - 1, now.round, now.round + 1] : [now.round]) {
        if (round < 0) continue;
        for (const { ms, meant, bytes } of this.messages(round)) {
          const when = ms + round * length;
          const plays = !loop || (meant >= loop.from && meant < loop.to);
          if (plays && when > from && when <= time) play(bytes, at - (time - when));
        }
      }
      last = time;
    }, LOOKS);
    return () => {
      clearInterval(timer);
      letGo(performance.now());
    };
  }
}
