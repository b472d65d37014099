import { HeardClock } from '../src/sound/heard-clock';

/** An audio context whose output lags behind the page's clock by what it was stopped for. */
function clock() {
  const time = { now: 1000, stopped: 0 };
  jest.spyOn(performance, 'now').mockImplementation(() => time.now);
  const context = {
    getOutputTimestamp: () => ({ contextTime: (time.now - 500 - time.stopped) / 1000, performanceTime: time.now }),
    currentTime: 0,
    outputLatency: 0,
    baseLatency: 0,
  };
  const clock = new HeardClock(context);
  return {
    time,
    heard: (at = time.now) => at + clock.offset(at) * 1000,
    begin: () => clock.begin(),
    /** The page's next turn is so many ms later. */
    next: async (ms: number) => {
      await Promise.resolve();
      time.now += ms;
    },
  };
}

afterEach(() => jest.restoreAllMocks());

describe('what is heard of the audio clock', () => {
  it('goes with the page’s own, for what was played before and after the page looks', async () => {
    const { heard, time, next } = clock();
    for (let i = 0; i < 60; i++) {
      expect(heard()).toBeCloseTo(time.now - 500, 6);
      expect(heard(time.now - 300)).toBeCloseTo(time.now - 800, 6);
      await next(16);
    }
  });

  it('keeps for what was played before the audio thread stopped what was heard then', async () => {
    const { heard, time, next } = clock();
    heard();
    await next(10);
    // A note is struck; before the page gets to it the audio thread is stopped for 120 ms.
    const struck = time.now;
    await next(130);
    time.stopped = 120;
    expect(heard(struck)).toBeCloseTo(510, 6);
    expect(heard()).toBeCloseTo(520, 6);
    await next(1000);
    time.stopped = 320;
    expect(heard()).toBeCloseTo(1320, 6);
    expect(heard(struck)).toBeCloseTo(510, 6);
    expect(heard(struck + 140)).toBeCloseTo(530, 6);
  });

  it('never goes back: what was struck while it was stopped was heard no later than what is heard now', async () => {
    const { heard, time, next } = clock();
    heard();
    for (let i = 0; i < 40; i++) {
      await next(130);
      time.stopped += 120;
      heard();
    }
    const places = Array.from({ length: time.now - 999 }, (_, i) => heard(1000 + i));
    expect(places.every((place, i) => i === 0 || place >= places[i - 1] - 1e-6)).toBe(true);
    expect(places.at(-1)).toBeCloseTo(time.now - 500 - 4800, 6);
  });

  it('is one for all who ask in one turn of the page, however long that takes', async () => {
    const { heard, time, next } = clock();
    const asked = time.now;
    expect(heard(asked)).toBeCloseTo(500, 6);
    time.now += 90;
    time.stopped = 90;
    expect(heard(asked)).toBeCloseTo(500, 6);
    expect(heard()).toBeCloseTo(590, 6);
    await next(0);
    expect(heard()).toBeCloseTo(500, 6);
  });

  it('was told too little where it seems to run ahead: that is put right at once', async () => {
    const { heard, time, next } = clock();
    time.stopped = 300;
    const before = time.now;
    expect(heard(before)).toBeCloseTo(200, 6);
    await next(10);
    time.stopped = 0;
    expect(heard(before)).toBeCloseTo(500, 6);
    expect(heard()).toBeCloseTo(510, 6);
  });

  it('takes up small steps little by little', async () => {
    const { heard, time, next } = clock();
    heard();
    await next(0);
    time.stopped = 20;
    const first = heard();
    expect(first).toBeLessThan(500);
    expect(first).toBeGreaterThan(495);
    for (let i = 0; i < 100; i++) {
      await next(0);
      heard();
    }
    expect(heard()).toBeCloseTo(480, 0);
  });

  it('forgets what was before where it begins anew', async () => {
    const { heard, time, begin, next } = clock();
    heard();
    await next(1000);
    time.stopped = 400;
    begin();
    expect(heard()).toBeCloseTo(1100, 6);
    expect(heard(1000)).toBeCloseTo(100, 6);
  });
});
