import type { Pass, PlayedMessage } from '@early-sparrow/core/record';

/** A first note may be played so long before a pass begins, in ms. */
const EARLY_FIRST = 200;

/** Where the song is heard. */
interface Heard {
  readonly ms: number;
  readonly round: number;
}

/** What is recorded, parted where the song jumps: each pass has a beginning and an end of its own. */
export class Passes {
  private done: Pass[] = [];
  private from = 0;
  private reached: Heard = { ms: 0, round: 0 };
  private first = 0;
  /** Everything that was played, in order of arrival. */
  readonly messages: PlayedMessage[] = [];

  begin(from: number): void {
    this.done = [];
    this.messages.length = 0;
    this.first = 0;
    this.start(from);
  }

  /** Whether a message belongs to the recording: one that is played while it counts in does not. */
  takes({ ms, round }: PlayedMessage, latency: number): boolean {
    return round > 0 || ms - latency >= this.from - EARLY_FIRST;
  }

  add(message: PlayedMessage): void {
    const pass = this.done.length;
    this.messages.push(pass > 0 ? { ...message, pass } : message);
    this.reach(message);
  }

  /** The song is heard here. */
  reach({ ms, round }: Heard): void {
    if (round > this.reached.round || (round === this.reached.round && ms > this.reached.ms))
      this.reached = { ms, round };
  }

  /** The song goes on from elsewhere. Where nothing was played yet, that is where it begins. */
  jump(from: number): void {
    if (this.messages.length > this.first) this.close(this.reached.ms);
    this.start(from);
  }

  /** @param stopped where the song stopped, in ms @returns all passes */
  end(stopped: number): readonly Pass[] {
    this.close(this.reached.round > 0 ? stopped : Math.max(stopped, this.reached.ms));
    return this.done;
  }

  private start(from: number): void {
    this.from = from;
    this.first = this.messages.length;
    this.reached = { ms: from, round: 0 };
  }

  private close(stopped: number): void {
    const messages = this.messages.slice(this.first);
    this.done.push({ messages, from: this.from, stopped, round: this.reached.round });
  }

  /** The passes of messages that were kept; what is not known of their ends is told by the last one played. */
  static of(from: number, messages: readonly PlayedMessage[], latency: number): Pass[] {
    const passes = new Passes();
    passes.begin(from);
    let pass = 0;
    for (const message of messages) {
      if ((message.pass ?? 0) !== pass) {
        pass = message.pass ?? 0;
        passes.jump(message.ms);
      }
      if (passes.takes(message, latency)) passes.add(message);
    }
    return [...passes.end(messages.at(-1)?.ms ?? from)];
  }
}
