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
    heard: (at = time.now) => at + clock.offset() * 1000,
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

  it('is one for all who ask in one turn of the page, and that of now in the next one', async () => {
    const { heard, time, next } = clock();
    const asked = time.now;
    expect(heard(asked)).toBeCloseTo(500, 6);
    time.now += 90;
    time.stopped = 90;
    expect(heard(asked)).toBeCloseTo(500, 6);
    expect(heard()).toBeCloseTo(590, 6);
    await next(0);
    expect(heard()).toBeCloseTo(500, 6);
    await next(1000);
    time.stopped = 0;
    expect(heard()).toBeCloseTo(1590, 6);
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
    await next(0);
    time.stopped = 20;
    begin();
    expect(heard()).toBeCloseTo(480, 6);
  });

  it('is reckoned from the latency where the browser tells no time of its output', () => {
    jest.spyOn(performance, 'now').mockReturnValue(4000);
    const silent = { contextTime: 0, performanceTime: 0 };
    const clock = new HeardClock({
      getOutputTimestamp: () => silent,
      currentTime: 3,
      outputLatency: 0,
      baseLatency: 0.25,
    });
    expect(clock.offset()).toBeCloseTo(3 - 0.25 - 4, 9);
  });
});
