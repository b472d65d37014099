import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Part, Song } from '@early-sparrow/core/song';
import { note, part, song } from '../../core/test/build';
import { unhurried } from '../src/common/unhurried';

const SONG = song([]);

/** A part with so many notes. */
function partOf(id: string, count: number): Part {
  return { ...part(SONG), id, notes: Array.from({ length: count }, (_, i) => note(i, i * 10)) };
}

/** Counts a part's notes, and how often it was asked. */
function counting(first: Part | null) {
  const shown = signal(first);
  let asked = 0;
  const value = TestBed.runInInjectionContext(() =>
    unhurried(
      (): { song: Song; part: Part } | null => {
        const part = shown();
        return part && { song: SONG, part };
      },
      ({ part }) => {
        asked++;
        return part.notes.length;
      },
    ),
  );
  return { shown, value, asked: () => asked };
}

describe('numbers that may wait', () => {
  beforeEach(() => jest.useFakeTimers());
  afterEach(() => jest.useRealTimers());

  it('are there at once for a short part', () => {
    const { shown, value } = counting(partOf('a', 10));
    TestBed.tick();
    expect(value()).toBe(10);
    shown.set(partOf('a', 11));
    expect(value()).toBe(11);
    shown.set(null);
    expect(value()).toBeNull();
  });

  it('follow a long part once it has come to rest, and at least once a second while it does not', () => {
    const { shown, value, asked } = counting(partOf('a', 4000));
    TestBed.tick();
    expect(value()).toBe(4000);
    jest.advanceTimersByTime(200);
    shown.set(partOf('a', 4001));
    TestBed.tick();
    expect(value()).toBe(4000);
    jest.advanceTimersByTime(200);
    expect(value()).toBe(4001);
    const before = asked();
    for (let i = 0; i < 100; i++) {
      shown.set(partOf('a', 5000 + i));
      TestBed.tick();
      jest.advanceTimersByTime(16);
    }
    // 1.6 s of a drag.
    expect(asked() - before).toBeGreaterThanOrEqual(1);
    expect(asked() - before).toBeLessThanOrEqual(2);
    jest.advanceTimersByTime(200);
    expect(value()).toBe(5099);
  });

  it('are never those of another part', () => {
    const { shown, value } = counting(partOf('a', 4000));
    TestBed.tick();
    jest.advanceTimersByTime(1000);
    shown.set(partOf('b', 6000));
    TestBed.tick();
    expect(value()).toBe(6000);
  });
});
