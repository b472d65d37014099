import { computed, effect, signal, untracked, type Signal } from '@angular/core';
import type { Part, Song } from '@early-sparrow/core/song';

/** What something is worked out from. */
export interface PartOfSong {
  readonly song: Song;
  readonly part: Part;
}

/** What is said about more notes than this may wait: a frame of a drag has no time for it. */
const HEAVY = 3000;
/** It waits until nothing has changed for so long, in ms, */
const REST_MS = 120;
/** but never longer than this. */
const LONGEST_MS = 500;

/**
 * Numbers and words about a part. Of a long part they follow in a task of their own once the picture has come to rest,
 * a few times a second while it does not; of a short one, and of one that has just come into view, they are there at
 * once. To be called where Angular injects.
 * @param compute may depend on nothing but what it is given; it should remember its result by that
 */
export function unhurried<T, From extends PartOfSong = PartOfSong>(
  from: () => From | null,
  compute: (of: From) => T,
): Signal<T | null> {
  const now = computed(from, { equal: same });
  const late = signal<{ readonly of: string; readonly value: T } | null>(null);
  /** Since when the late value has not been the current one; null while it is. */
  let since: number | null = null;
  effect((onCleanup) => {
    const of = now();
    if (!of || isLight(of)) return;
    since ??= performance.now();
    const wait = Math.max(0, Math.min(REST_MS, since + LONGEST_MS - performance.now()));
    const timer = setTimeout(() => {
      since = null;
      late.set({ of: of.part.id, value: compute(of) });
    }, wait);
    onCleanup(() => clearTimeout(timer));
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

function same<From extends object>(a: From | null, b: From | null): boolean {
  if (a === b || !a || !b) return a === b;
  return (Object.keys(a) as (keyof From)[]).every((key) => a[key] === b[key]);
}
