import { isNoteOff, isNoteOn, type MidiBytes, type PracticeMessage } from '@early-sparrow/core/record';
import { LiveTake } from '../src/desk/recording/live-take';
import { PracticeSource } from '../src/input/practice-source';

/** A key that is held from one place of the song to another, in ms. */
const held = (key: number, from: number, to: number): PracticeMessage[] => [
  { ms: from, meant: from, bytes: [0x90, key, 80] },
  { ms: to, meant: to, bytes: [0x80, key, 64] },
];

describe('the practice player', () => {
  beforeEach(() => jest.useFakeTimers());
  afterEach(() => jest.useRealTimers());

  /** The song runs with the clock from a place that can be moved; null stops it. */
  function rig(messages: readonly PracticeMessage[]) {
    let began: number | null = performance.now();
    let jumps = 0;
    const heard: { bytes: MidiBytes; at: number }[] = [];
    const source = new PracticeSource(
      () => messages,
      (at) => (began === null ? null : { ms: at - began, round: 0 }),
      () => null,
      () => jumps,
    );
    const end = source.listen((bytes, at) => void heard.push({ bytes, at }));
    return {
      heard,
      end,
      song: (ms: number) => jest.advanceTimersByTime(ms),
      goTo: (ms: number) => {
        began = performance.now() - ms;
        jumps++;
      },
      /** The page is busy, the song goes on. */
      busy: (ms: number) => (began = (began ?? 0) - ms),
      /** The sound stops for a moment. */
      slip: (ms: number) => (began = (began ?? 0) + ms),
      stop: () => (began = null),
      sounding: () => heard.filter((h) => isNoteOn(h.bytes)).length - heard.filter((h) => isNoteOff(h.bytes)).length,
    };
  }

  it('plays each message at its own time, to the ms, whenever it looks', () => {
    const { heard, song } = rig([...held(60, 33, 118), ...held(62, 125, 240)]);
    const zero = performance.now();
    song(400);
    expect(heard.map((h) => [h.bytes[0] >> 4, h.bytes[1], Math.round(h.at - zero)])).toEqual([
      [9, 60, 33],
      [8, 60, 118],
      [9, 62, 125],
      [8, 62, 240],
    ]);
  });

  it('leaves nothing out where the page was busy, however long', () => {
    const r = rig([...held(60, 1033, 1118), ...held(62, 3000, 3100), ...held(64, 6000, 6100)]);
    r.song(1200);
    r.busy(5000);
    r.song(10);
    expect(r.heard.map(({ bytes }) => bytes[1])).toEqual([60, 60, 62, 62, 64, 64]);
    expect(r.heard[4].at - r.heard[2].at).toBeCloseTo(3000, 6);
    // Sent elsewhere, the player goes on from there.
    r.goTo(1000);
    r.song(20);
    r.goTo(5000);
    r.song(20);
    expect(r.heard).toHaveLength(6);
  });

  it('plays nothing twice where the sound stops for a moment, and holds its keys', () => {
    const r = rig([...held(60, 1033, 1118), ...held(62, 1125, 1400)]);
    r.song(1130);
    r.slip(90);
    r.song(20);
    expect(r.sounding()).toBe(1);
    r.song(500);
    expect(r.heard.map(({ bytes }) => [bytes[0] >> 4, bytes[1]])).toEqual([
      [9, 60],
      [8, 60],
      [9, 62],
      [8, 62],
    ]);
  });

  it.each<[string, (r: ReturnType<typeof rig>) => void]>([
    ['the song goes on elsewhere', (r) => void r.goTo(8000)],
    ['the song goes back', (r) => void r.goTo(5)],
    ['the song stops', (r) => void r.stop()],
    ['another input is chosen', (r) => void r.end()],
  ])('lets its keys go where %s', (_, act) => {
    const r = rig(held(60, 20, 5000));
    r.song(100);
    expect(r.sounding()).toBe(1);
    act(r);
    r.song(14);
    expect(r.sounding()).toBe(0);
    expect(r.heard.every((h, i) => i === 0 || h.at >= r.heard[i - 1].at)).toBe(true);
  });
});

it('a key that is struck again while it is held is drawn as two notes, one after the other, and none hangs', () => {
  const live = new LiveTake();
  live.hear([0x90, 60, 80], 0);
  live.hear([0x90, 60, 80], 200);
  live.hear([0x80, 60, 64], 210);
  live.hear([0x80, 60, 64], 400);
  expect(live.playing().notes).toEqual([
    { pitch: 60, start: 0, end: 200 },
    { pitch: 60, start: 200, end: 210 },
  ]);
});
