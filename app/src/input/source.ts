import type { MidiBytes } from '@early-sparrow/core/record';

/** Hears a message. @param at time of the page's own clock at which it came, in ms */
export type Heard = (bytes: MidiBytes, at: number) => void;

/** Something that notes are played in with. */
export interface InputSource {
  readonly id: string;
  readonly name: string;
  /** Begins to listen; what it gives ends that. */
  listen(heard: Heard): () => void;
}
