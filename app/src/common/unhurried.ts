import { computed, DestroyRef, effect, inject, signal, untracked, type Signal } from '@angular/core';
import { atOnce, type Pieces } from '@early-sparrow/core/maths';
import type { Part, Song } from '@early-sparrow/core/song';
import { inTurnsLast } from './in-turns';

/** What something is worked out from. */
export interface PartOfSong {
  readonly song: Song;
  readonly part: Part;
}

/** What is said and drawn of more notes than this may wait: a frame of a drag has no time for it. */
export const HEAVY = 3000;
/** It waits until nothing has changed for so long, in ms, */
const REST_MS = 120;
/** but never longer than this. */
const LONGEST_MS = 1000;

/**
 * Numbers and words about a part. Of a long part they follow in a task of their own once the picture has come to rest,
 * once a second while it does not; of a short one, and of one that has just come into view, they are there at
 * once. To be called where Angular injects.
 * @param compute may depend on nothing but what it is given; it should remember its result by that
 */
export function unhurried<T, From extends PartOfSong = PartOfSong>(
  from: () => From | null,
  compute: (of: From) => T,
): Signal<T | null> {
  return following(from, compute, (of, show) => show(compute(of)));
}

/** {@link unhurried} for what takes several frames in a long part: there it is worked out in turns with the page. */
export function unhurriedPieces<T, From extends PartOfSong = PartOfSong>(
  from: () => From | null,
  pieces: (of: From) => Pieces<T>,
): Signal<T | null> {
  let under = new AbortController();
  inject(DestroyRef).onDestroy(() => under.abort());
  const compute = (of: From) => atOnce(pieces(of));
  return following(from, compute, async (of, show) => {
    // No change gives up what is under way, only the next rest does: in a long drag it would never come to an end.
    under.abort();
    under = new AbortController();
    const done = await inTurnsLast(boxed(pieces(of)), under.signal);
    if (done) show(done.value);
  });
}

/** A result that may be null, so that it is not taken for work that was stopped. */
function* boxed<T>(work: Pieces<T>): Pieces<{ readonly value: T }> {
  return { value: yield* work };
}

/** @param begin works it out of a long part */
function following<T, From extends PartOfSong>(
  from: () => From | null,
  compute: (of: From) => T,
  begin: (of: From, show: (value: T) => void) => unknown,
): Signal<T | null> {
  const now = computed(from, { equal: same });
  const late = signal<{ readonly of: string; readonly value: T } | null>(null);
  const rest = new Rest();
  effect((onCleanup) => {
    const of = now();
    if (!of || isLight(of)) return;
    onCleanup(rest.wait(() => void begin(of, (value) => late.set({ of: of.part.id, value }))));
  });
  return computed(() => {
    const of = now();
    if (!of) return null;
    const known = isLight(of) ? null : late();
    return known?.of === of.part.id ? known.value : untracked(() => compute(of));
  });
}

function isLight({ part }: PartOfSong): boolean {
  return part.notes.length <= HEAVY;
}

/** Waits until nothing has changed for a moment, but not for long. */
export class Rest {
  /** Since when something has been waited for; null while nothing is. */
  private since: number | null = null;

  /** @returns what takes it back, because it has changed again */
  wait(task: () => void): () => void {
    this.since ??= performance.now();
    const ms = Math.max(0, Math.min(REST_MS, this.since + LONGEST_MS - performance.now()));
    const timer = setTimeout(() => {
      this.since = null;
      task();
    }, ms);
    return () => clearTimeout(timer);
  }
}

function same<From extends object>(a: From | null, b: From | null): boolean {
  if (a === b || !a || !b) return a === b;
  return (Object.keys(a) as (keyof From)[]).every((key) => a[key] === b[key]);
}
