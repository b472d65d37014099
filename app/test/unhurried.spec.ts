import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Part, Song } from '@early-sparrow/core/song';
import { note, part, song } from '../../core/test/build';
import { unhurried, unhurriedPieces } from '../src/common/unhurried';

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

describe('numbers that are worked out in pieces', () => {
  beforeEach(() => {
    jest.useFakeTimers();
    // Of the faked clocks this is the one that a piece can put on.
    jest.spyOn(performance, 'now').mockImplementation(() => Date.now());
  });
  afterEach(() => {
    jest.restoreAllMocks();
    jest.useRealTimers();
  });

  /** Counts a part's notes in pieces of 10 ms each, and how many pieces were done. */
  function slowly(first: Part) {
    const shown = signal<Part | null>(first);
    let done = 0;
    const value = TestBed.runInInjectionContext(() =>
      unhurriedPieces(
        (): { song: Song; part: Part } | null => {
          const part = shown();
          return part && { song: SONG, part };
        },
        function* ({ part }) {
          for (let i = 0; i < 10; i++) {
            jest.setSystemTime(Date.now() + 10);
            done++;
            yield;
          }
          // Null is a result like any other.
          return part.notes.length === 4002 ? null : part.notes.length;
        },
      ),
    );
    return { shown, value, done: () => done };
  }

  it('come a few pieces at a time, and then all at once', async () => {
    const { shown, value, done } = slowly(partOf('a', 4000));
    TestBed.tick();
    expect(value()).toBe(4000);
    await jest.advanceTimersByTimeAsync(1000);
    shown.set(partOf('a', 4001));
    TestBed.tick();
    const before = done();
    await jest.advanceTimersByTimeAsync(121);
    expect(done() - before).toBeGreaterThan(0);
    expect(done() - before).toBeLessThan(10);
    expect(value()).toBe(4000);
    await jest.advanceTimersByTimeAsync(1000);
    expect(done() - before).toBe(10);
    expect(value()).toBe(4001);
    shown.set(partOf('a', 4002));
    TestBed.tick();
    await jest.advanceTimersByTimeAsync(1000);
    expect(value()).toBeNull();
  });

  it('come to an end while the part goes on changing', async () => {
    const { shown, value } = slowly(partOf('a', 4000));
    TestBed.tick();
    expect(value()).toBe(4000);
    await jest.advanceTimersByTimeAsync(1000);
    const seen = new Set<number | null>();
    for (let i = 1; i < 200; i++) {
      shown.set(partOf('a', 5000 + i));
      TestBed.tick();
      await jest.advanceTimersByTimeAsync(16);
      seen.add(value());
    }
    // What it was before the drag, and at least twice what it was on the way.
    expect(seen.size).toBeGreaterThanOrEqual(3);
  });
});
