import { signal } from '@angular/core';
import { peaksOf } from '@early-sparrow/core/audio';
import { firstAt } from '@early-sparrow/core/maths';
import { keepEdit } from '@early-sparrow/core/edit';
import { parseGrid } from '@early-sparrow/core/grid';
import type { PartAudio } from '@early-sparrow/core/song';
import { MeterMap } from '@early-sparrow/core/time';
import { applied, note, part, song } from '../../core/test/build';
import { minutes, pitchName, shortMs } from '../src/common/format';
import type { Palette } from '../src/common/theme';
import { drawGrid } from '../src/desk/picture/draw-grid';
import {
  binMs,
  binOffsets,
  drawLane,
  LANE_HEAD,
  laneBands,
  laneMs,
  laneReach,
  laneY,
} from '../src/desk/picture/draw-lane';
import { drawLive } from '../src/desk/recording/draw-live';
import { drawNotes } from '../src/desk/picture/draw-notes';
import { drawWaves } from '../src/desk/listening/draw-wave';
import { LEAN, leanOf, noteAt, pictureOf } from '../src/desk/hand/picture';
import { ALL_PITCHES, KEYS_WIDTH, RULER_HEIGHT, Viewport } from '../src/desk/kit/viewport';

function viewport(): Viewport {
  // Its own instance each time: signals need no injector.
  const view = new Viewport();
  view.width.set(KEYS_WIDTH + 800);
  view.height.set(600);
  view.lanes.set([{ id: 'offset', height: () => 200 }]);
  view.end.set(100_000);
  return view;
}

describe('the viewport', () => {
  it('keeps the row in the middle of the roll where a strip takes some of its height', () => {
    const view = viewport();
    view.rowHeight.set(10);
    view.topRow.set(80);
    const middle = () => view.pitch(RULER_HEIGHT + view.rollHeight() / 2 + 1);
    const before = middle();
    view.resize(view.width(), 500);
    expect(middle()).toBe(before);
    view.resize(view.width(), 600);
    expect([middle(), view.topRow()]).toEqual([before, 80]);
    // A lane that is opened takes as much from above as from below.
    const opened = signal(0);
    view.lanes.set([
      { id: 'offset', height: () => 200 },
      { id: 'velocity', height: opened },
    ]);
    view.keepMiddle(() => opened.set(120));
    expect([middle(), view.topRow()]).toEqual([before, 74]);
    view.keepMiddle(() => opened.set(0));
    expect([middle(), view.topRow()]).toEqual([before, 80]);
    // The first size is no change.
    const fresh = new Viewport();
    fresh.resize(800, 600);
    expect(fresh.topRow()).toBe(84);
  });

  it('goes from ticks to px and back', () => {
    const view = viewport();
    view.scale.set(0.25);
    view.left.set(4000);
    expect(view.x(4000)).toBe(KEYS_WIDTH);
    expect(view.tick(view.x(5432))).toBeCloseTo(5432, 9);
    expect(view.right()).toBe(4000 + 3200);
  });

  it('zooms so that the place under the pointer stays', () => {
    const view = viewport();
    view.fitTime(10_000, 20_000);
    const at = view.tick(300);
    for (const factor of [1.3, 0.6, 2, 0.9]) {
      view.zoom(300, factor);
      expect(view.tick(300)).toBeCloseTo(at, 3);
    }
  });

  it('never scrolls before the beginning nor far past the end', () => {
    const view = viewport();
    view.scale.set(0.1);
    view.scroll(-1e6, 0);
    expect(view.x(0)).toBeLessThanOrEqual(KEYS_WIDTH + 12.001);
    view.scroll(1e7, 0);
    expect(view.left()).toBeLessThan(100_000);
    view.zoom(400, 1e-9);
    expect(view.scale()).toBeGreaterThan(0);
  });

  it('gives rows to the pitches that are asked for, and finds them again', () => {
    const view = viewport();
    view.fitPitches(ALL_PITCHES, 60, 72, 20);
    for (const pitch of [60, 64, 72]) expect(view.pitch(view.y(pitch) + view.rowHeight() / 2)).toBe(pitch);
    expect(view.y(72)).toBeGreaterThanOrEqual(RULER_HEIGHT);
    expect(view.y(60) + view.rowHeight()).toBeLessThanOrEqual(view.rollBottom());
    view.fitPitches([36, 38, 42], 36, 42, 32);
    expect(view.rowHeight()).toBe(32);
    expect(view.pitch(view.y(38) + 5)).toBe(38);
    expect(view.pitch(view.y(42) - 5)).toBe(-1);
    expect(view.y(42)).toBeLessThan(view.y(36));
  });
});

const quantized = { quantize: { on: true, grid: parseGrid('1/16'), strength: 0.5 } };
const played = [
  note(0, 240 - 40, { pitch: 60 }),
  note(1, 480 + 40, { pitch: 64 }),
  note(2, 960, { pitch: 67 }),
  note(3, 970, { pitch: 72 }),
];

describe('the picture', () => {
  const s = song(played, quantized);
  const picture = pictureOf(part(s), s);

  it('tells early from late, before and after, in ms', () => {
    // 40 ticks are 20.8 ms at 120 BPM
    expect([...picture.before].map(leanOf)).toEqual([LEAN.early, LEAN.late, LEAN.onLine, LEAN.onLine]);
    // Half of the way leaves 10.4 ms: still early and late.
    expect([...picture.after].map(leanOf)).toEqual([LEAN.early, LEAN.late, LEAN.onLine, LEAN.onLine]);
    expect(picture.before[0]).toBeCloseTo(-20.83, 1);
    expect(picture.after[0]).toBeCloseTo(-10.42, 1);
    expect([...picture.now]).toEqual([220, 500, 960, 965]);
  });

  it('has one mark a chord, at its median', () => {
    const { count, first, notes, played: places } = picture.chords;
    expect(count).toBe(3);
    expect([...notes.subarray(first[2], first[3])]).toEqual([2, 3]);
    expect(places[2]).toBe(965);
    expect(picture).toMatchObject({ lowest: 60, highest: 72, longest: 200 });
  });

  it('is the same object while the part is', () => expect(pictureOf(part(s), s)).toBe(picture));

  it('takes colour and shape from where a note lies now, hollow from where it was played', () => {
    const full = song(played, { quantize: { ...quantized.quantize, strength: 1 } });
    const now = pictureOf(part(full), full);
    expect([...now.after].map(leanOf)).toEqual([LEAN.onLine, LEAN.onLine, LEAN.onLine, LEAN.onLine]);
    expect([...now.before].map(leanOf)).toEqual([LEAN.early, LEAN.late, LEAN.onLine, LEAN.onLine]);
    const pushed = song([note(0, 240)], { push: { on: true, amount: { value: 15, unit: 'ms' } } });
    const late = pictureOf(part(pushed), pushed);
    expect([leanOf(late.before[0]), leanOf(late.after[0])]).toEqual([LEAN.onLine, LEAN.late]);
  });

  it('shows the take as played, also after Keep', () => {
    const edit = keepEdit(s, 'p', null);
    const kept = edit ? applied(s, edit).song : s;
    const p = pictureOf(part(kept), kept);
    expect([...p.played]).toEqual([...picture.played]);
    expect([...p.now]).toEqual([...picture.now]);
    expect(p.before[0]).toBeCloseTo(-20.83, 1);
  });

  it('gives notes outside every treatment the nearest line, and a mark of their own', () => {
    const free = song([{ ...played[0], exception: { kind: 'as-played' } }, played[1]], quantized);
    const p = pictureOf(part(free), free);
    expect(p.line[0]).toBe(240);
    expect(leanOf(p.after[0])).toBe(LEAN.early);
    expect(p.chords.count).toBe(2);
    expect([...p.chords.treated]).toEqual([0, 1]);
  });

  it('finds a note that was pinned far from where it was played', () => {
    const pin = { kind: 'pinned', start: 50_000, length: 100, velocity: 80 } as const;
    const far = song([{ ...played[0], exception: pin }, played[1]], quantized);
    const p = pictureOf(part(far), far);
    expect(noteAt(p, true, 50_050, 60, 0)).toBe(0);
    expect(noteAt(p, false, 205, 60, 0)).toBe(0);
  });

  it('is another once the tempo is', () => {
    const slower = { ...s, tempo: [{ tick: 0, order: 0, usPerQuarter: 1_000_000 }] };
    expect(pictureOf(part(slower), slower).before[0]).toBeCloseTo(-41.67, 1);
  });

  it('finds notes by place: by binary search, corrected or as played', () => {
    expect(firstAt(picture.own, 0)).toBe(0);
    expect(firstAt(picture.own, 961)).toBe(3);
    expect(firstAt(picture.own, 1e6)).toBe(4);
    expect(noteAt(picture, true, 230, 60, 0)).toBe(0);
    expect(noteAt(picture, false, 205, 60, 0)).toBe(0);
    expect(noteAt(picture, true, 205, 60, 0)).toBe(-1);
    expect(noteAt(picture, true, 230, 61, 0)).toBe(-1);
  });
});

/** A canvas that writes down what is drawn. */
class Paper {
  readonly rects: number[][] = [];
  readonly texts: string[] = [];
  readonly moves: number[][] = [];
  fillStyle = '';
  strokeStyle = '';
  lineWidth = 1;
  font = '';
  textAlign = '';
  textBaseline = '';
  rect = (...r: number[]) => void this.rects.push(r);
  fillRect = (...r: number[]) => void this.rects.push(r);
  strokeRect = (...r: number[]) => void this.rects.push(r);
  fillText = (text: string) => void this.texts.push(text);
  moveTo = (...p: number[]) => void this.moves.push(p);
  lineTo = (...p: number[]) => void this.moves.push(p);
  arc = (...p: number[]) => void this.moves.push(p);
  clearRect = () => undefined;
  beginPath = () => undefined;
  closePath = () => undefined;
  fill = () => undefined;
  stroke = () => undefined;
  save = () => undefined;
  restore = () => undefined;
  clip = () => undefined;
  setLineDash = () => undefined;
}

const COLORS: Palette = {
  paper: '#fff',
  raised: '#eee',
  line: '#ccc',
  ink: '#000',
  soft: '#666',
  action: '#840',
  early: '#00f',
  late: '#f80',
  onLine: '#080',
};

function scene() {
  const paper = new Paper();
  return { paper, scene: { ctx: paper as unknown as CanvasRenderingContext2D, view: viewport(), colors: COLORS } };
}

describe('drawing', () => {
  const many = song(
    Array.from({ length: 3000 }, (_, i) => note(i, i * 240 + (i % 7) * 10, { pitch: 60 + (i % 12) })),
    quantized,
  );
  const picture = pictureOf(part(many), many);

  it('draws only the notes in view', () => {
    const { paper, scene: s } = scene();
    s.view.end.set(720_000);
    s.view.fitPitches(ALL_PITCHES, 60, 71, 20);
    s.view.fitTime(240_000, 249_600);
    drawNotes(s, picture, true, 960);
    expect(paper.rects.length + paper.moves.length).toBeGreaterThan(40);
    expect(paper.rects.length).toBeLessThan(400);
  });

  it('marks pinned notes and those left as played, and no others', () => {
    const { paper, scene: s } = scene();
    const pinned = { kind: 'pinned', start: 500, length: 100, velocity: 80 } as const;
    const marked = song(
      [{ ...played[0], exception: { kind: 'as-played' } }, { ...played[1], exception: pinned }, played[2]],
      quantized,
    );
    s.view.fitPitches(ALL_PITCHES, 60, 72, 20);
    s.view.fitTime(0, 1920);
    drawNotes(s, pictureOf(part(marked), marked), true, 960);
    expect(paper.moves.filter((m) => m.length === 5)).toHaveLength(2);
  });

  it('draws bars, beats and the grid’s own lines, but none closer than can be read', () => {
    const { paper, scene: s } = scene();
    s.view.fitPitches(ALL_PITCHES, 60, 71, 20);
    s.view.fitTime(0, 7680);
    drawGrid(s, new MeterMap(960, []), picture.lines, false);
    expect(paper.texts).toEqual(expect.arrayContaining(['1', '2', '1.2', '1.3', 'C4']));
    const lines = paper.rects.filter(([, , w]) => w === 1).length;
    const far = scene();
    far.scene.view.end.set(720_000);
    far.scene.view.fitTime(0, 720_000);
    drawGrid(far.scene, new MeterMap(960, []), picture.lines, false);
    expect(far.paper.rects.filter(([, , w]) => w === 1).length).toBeLessThan(lines * 4);
  });

  it('puts early above the line and late below it, within the lane', () => {
    const { paper, scene: s } = scene();
    const small = song(played, quantized);
    const p = pictureOf(part(small), small);
    const reach = laneReach(p);
    // Under the lane's head, in the middle of what is left.
    const frame = s.view.frameOf('offset');
    const middle = frame.top + LANE_HEAD + (200 - LANE_HEAD) / 2;
    expect(laneY(frame, p, 0)).toBe(middle);
    for (const ms of [-12, 0, 7]) expect(laneMs(frame, p, laneY(frame, p, ms))).toBeCloseTo(ms, 9);
    expect(laneY(frame, p, -5)).toBeLessThan(middle);
    expect(laneY(frame, p, 5)).toBeGreaterThan(middle);
    expect(laneY(frame, p, 10 * reach)).toBe(laneY(frame, p, reach));
    drawLane(s, frame, p, true, laneBands(p, part(small).treatment));
    expect(paper.texts).toEqual(expect.arrayContaining(['early', 'late', '0 ms']));
  });

  it('draws a sound file where it sounds, with its hits, between the roll and the lane', () => {
    const { paper, scene: s } = scene();
    const lanes = [{ id: 'sound', height: () => 60 }, ...s.view.lanes()];
    s.view.lanes.set(lanes);
    const frame = s.view.frameOf('sound');
    s.view.fitTime(0, 1920);
    // A file of a second, silent but for a click in its middle, played at half of its speed.
    const samples = new Float32Array(48_000);
    samples.fill(0.8, 24_000, 24_050);
    const audio: PartAudio = {
      file: 'd'.repeat(64),
      name: 'Click',
      ms: 1000,
      anchors: [
        { tick: 0, ms: 0 },
        { tick: 1920, ms: 1000 },
      ],
      heard: 'file',
    };
    const one = { ...part(song([note(0, 960)])), audio };
    drawWaves(s, frame, [{ part: one, audio, peaks: peaksOf([samples], 48_000) }]);
    const inStrip = paper.rects.filter(([, y]) => y > frame.top && y < frame.top + 60);
    const loud = inStrip.filter(([, , w, h]) => w === 1 && h > 15 && h < 50).map(([x]) => x);
    expect(loud.length).toBeGreaterThan(0);
    for (const x of loud) expect(Math.abs(x - s.view.x(960))).toBeLessThanOrEqual(1.5);
    // The stroke of the hit is as high as the strip.
    expect(inStrip.some(([x, , w, h]) => w === 1 && h === 60 && Math.abs(x - s.view.x(960)) <= 1)).toBe(true);
    expect(frame.top).toBe(s.view.rollBottom());
    expect(s.view.frameOf('offset').top).toBe(frame.top + 60);
    expect([frame.top - 1, frame.top, frame.top + 60].map((y) => s.view.laneAt(y))).toEqual([null, 'sound', 'offset']);
  });

  it('draws what is held up to the playhead while it is recorded', () => {
    const { paper, scene: s } = scene();
    s.view.fitPitches(ALL_PITCHES, 60, 71, 20);
    s.view.fitTime(0, 3840);
    const pedals = [{ controller: 64, start: 960, end: null }];
    drawLive(s, { notes: [{ pitch: 64, start: 480, end: 720 }], pedals, bends: [{ at: 100, value: 1 }] }, 1920);
    const width = (ticks: number) => ticks * s.view.scale();
    expect(paper.rects).toEqual(
      expect.arrayContaining([
        [s.view.x(480), s.view.y(64) + 2, width(240), s.view.rowHeight() - 4],
        [s.view.x(960), s.view.rollBottom() - 8, width(960), 5],
      ]),
    );
    expect(paper.texts).toEqual(['pedal', 'bend']);
  });

  it('counts offsets in round bins, the same before and after, with 0 in the middle of one', () => {
    expect([20, 30, 40, 60, 80, 120, 200, 400].map(binMs)).toEqual([2, 2, 5, 5, 5, 10, 20, 50]);
    const counts = binOffsets([-0.9, 0, 0.9, 2, -20, 21, 99], 20);
    expect(counts).toHaveLength(21);
    expect(counts[10]).toBe(3);
    expect(counts[11]).toBe(1);
    expect(counts[0]).toBe(1);
    expect(counts.reduce((a, b) => a + b)).toBe(5);
  });

  it('shows tolerance and reach in ms, whatever their unit', () => {
    const bands = (tolerance: { value: number; unit: 'ms' | 'ticks' | 'percent' }) => {
      const s = song(played, { quantize: { ...quantized.quantize, tolerance, reach: { value: 50, unit: 'percent' } } });
      return laneBands(pictureOf(part(s), s), part(s).treatment);
    };
    expect(bands({ value: 6, unit: 'ms' }).tolerance).toBe(6);
    expect(bands({ value: 96, unit: 'ticks' }).tolerance).toBeCloseTo(50, 9);
    // Half the gap of a sixteenth is 62.5 ms.
    expect(bands({ value: 0, unit: 'ms' })).toEqual({ tolerance: null, reach: expect.closeTo(31.25, 6) });
  });
});

describe('words', () => {
  it('tell times and pitches', () => {
    expect(minutes(125.9)).toBe('2:05');
    expect(shortMs(-3.14)).toBe('3.1');
    expect(shortMs(23.7)).toBe('24');
    // source: MIDI 1.0, note number 60 is middle C
    expect([60, 61, 69, 0, 127].map(pitchName)).toEqual(['C4', 'C♯4', 'A4', 'C-1', 'G9']);
  });
});
