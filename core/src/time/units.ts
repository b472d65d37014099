/**
 * Numbers that say what they count. A plain number passes for any of them, so that arithmetic needs no ceremony;
 * but one of them never passes for another by accident: ticks given where ms are wanted do not compile.
 */
interface Counted<Unit extends string> {
  readonly unit?: Unit;
}

/** Song time: parts of a quarter note, PPQ to each. */
export type Ticks = number & Counted<'ticks'>;
/** Real time in milliseconds. */
export type Ms = number & Counted<'ms'>;
/** Real time in seconds, as audio devices count it. */
export type Seconds = number & Counted<'seconds'>;
