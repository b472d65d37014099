import fc from 'fast-check';
import { isProblem } from '@early-sparrow/core/edit';
import { heldAt, newPart, newSong, newTrack, timeOf, type Song } from '@early-sparrow/core/song';
import { writeSmf } from '@early-sparrow/core/smf';
import {
  addNotes,
  clipOfMidi,
  clipToMidi,
  drawControl,
  eraseEvents,
  moveEvents,
  notesByBeat,
  notesLike,
  notesOfClip,
  notesOnLine,
  notesWith,
  notesWithin,
  pasted,
  readClip,
  takeUp,
  tidy,
  findUntidy,
  thin,
  toClip,
  valueAt,
  type Control,
  type Taken,
  move,
} from '@early-sparrow/core/shape';
import { anySongAtAll } from './any';
import { after } from './shaped';
import { applied, note, part, song, withEvents } from './build';

describe('controllers', () => {
  const anyControl = fc.constantFrom<Control>(
    { type: 'controller', controller: 64, channel: 0 },
    { type: 'controller', controller: 11, channel: 0 },
    { type: 'bend', channel: 0 },
    { type: 'pressure', channel: 9 },
  );
  const points = fc.array(fc.record({ tick: fc.nat(12_000), value: fc.integer({ min: -9000, max: 9000 }) }), {
    maxLength: 6,
  });
  const held = (s: Song) =>
    heldAt(part(s).events).map((e) => `${e.type} ${e.channel} ${e.type === 'controller' ? e.controller : ''}`);

  it('whatever is drawn, moved, erased or thinned: undone to the byte, nothing hangs, in order of time', () => {
    fc.assert(
      fc.property(
        anySongAtAll,
        anyControl,
        points,
        fc.nat(12_000),
        fc.nat(4000),
        fc.nat(7),
        (s, c, put, from, n, i) => {
          const p = part(s);
          const sorted = [...put].sort((a, b) => a.tick - b.tick);
          for (const shaped of [
            drawControl(p, c, { from, to: from + n }, sorted),
            ...[[i], [i, i + 1, i + 3]].map((which) => {
              const places = new Map(which.filter((k) => k < p.events.length).map((k) => [k, p.events[k].tick]));
              return moveEvents(p, places, { ticks: from - 6000, rise: n - 2000 }).shaped;
            }),
            eraseEvents(p, [i, i + 2]),
            thin(p, c, n / 100),
          ]) {
            if (shaped === null || isProblem(shaped)) continue;
            const { song: done, inverse } = applied(s, shaped);
            expect(JSON.stringify(applied(done, inverse).song)).toBe(JSON.stringify(s));
            for (const h of held(done)) expect(held(s)).toContain(h);
          }
        },
      ),
      { numRuns: 200 },
    );
  });

  it('points are moved as one: they pass none that stays, and none of them is squashed', () => {
    const cc = { type: 'controller', controller: 11, channel: 0 } as const;
    const at = (s: Song) => part(s).events.map((e) => [e.tick, 'value' in e ? e.value : 0]);
    const s = withEvents(
      song([note(0, 0)]),
      [10, 40, 100, 120].map((value, i) => ({ ...cc, tick: 100 * (i + 1), value })),
    );
    const places = new Map([1, 2].map((i) => [i, part(s).events[i].tick]));
    const moved = (ticks: number, rise: number) => {
      const { shaped, events } = moveEvents(part(s), places, { ticks, rise });
      if (shaped === null || isProblem(shaped)) throw new Error('Nothing moved.');
      const done = applied(s, shaped).song;
      for (const event of events) expect(part(done).events).toContain(event);
      return at(done);
    };
    expect(moved(30, 5)).toEqual([
      [100, 10],
      [230, 45],
      [330, 105],
      [400, 120],
    ]);
    expect(moved(1000, 100)).toEqual([
      [100, 10],
      [299, 67],
      [399, 127],
      [400, 120],
    ]);
    expect(moved(-1000, -100)).toEqual([
      [100, 10],
      [101, 0],
      [201, 60],
      [400, 120],
    ]);
  });

  it('behind a stretch that was drawn the control is as it was', () => {
    const cc = { type: 'controller', controller: 11, channel: 0 } as const;
    const s = withEvents(song([note(0, 0)]), [
      { ...cc, tick: 0, value: 90 },
      { ...cc, tick: 1000, value: 50 },
    ]);
    const drawn = after(s, drawControl(part(s), cc, { from: 400, to: 1200 }, [{ tick: 500, value: 10 }]));
    expect(part(drawn).events.map((e) => [e.tick, 'value' in e && e.value])).toEqual([
      [0, 90],
      [500, 10],
      [1200, 50],
    ]);
    expect(valueAt(part(drawn), cc, 5000)).toBe(50);
  });

  it('a thinned ramp keeps its ends and its corner', () => {
    const bend = { type: 'bend', channel: 0 } as const;
    const up = Array.from({ length: 21 }, (_, i) => ({ ...bend, tick: i * 10, value: i * 100 }));
    const down = Array.from({ length: 20 }, (_, i) => ({ ...bend, tick: 210 + i * 10, value: 1900 - i * 100 }));
    const s = withEvents(song([note(0, 0)]), [...up, ...down]);
    const thinned = after(s, thin(part(s), bend, 5));
    expect(part(thinned).events.map((e) => e.tick)).toEqual([0, 200, 400]);
  });
});

describe('adding and carrying notes', () => {
  const one = { start: 2000, length: 240, pitch: 40, velocity: 90, channel: 0 };

  it('an empty track gets its first part, from bar to bar; the next notes let it grow', () => {
    const empty: Song = { ...newSong('Empty'), tracks: [newTrack('t0', 'Bass')], nextId: 1 };
    const first = addNotes(empty, 't0', [{ ...one, start: 5000 }]);
    if (!first || isProblem(first)) throw new Error('no note');
    const s1 = applied(empty, first.edit).song;
    expect(s1.tracks[0].parts[0]).toMatchObject({ id: first.part, start: 3840, end: 7680, name: 'Bass' });
    const more = addNotes(s1, 't0', [one, { ...one, start: 20_000 }]);
    if (!more || isProblem(more)) throw new Error('no note');
    const { song: s2, inverse } = applied(s1, more.edit);
    expect(s2.tracks[0].parts).toHaveLength(1);
    expect(s2.tracks[0].parts[0]).toMatchObject({ start: 0, end: 23_040 });
    expect(s2.tracks[0].parts[0].notes.map((n) => n.start)).toEqual([2000, 5000, 20_000]);
    expect(JSON.stringify(applied(s2, inverse).song)).toBe(JSON.stringify(s1));
  });

  it('a copy through the clipboard as a MIDI file is the same notes, and other bytes are refused in a sentence', () => {
    const s = song([note(0, 960, { pitch: 50, velocity: 33, channel: 2 }), note(1, 1500, { length: 120 })]);
    const clip = readClip(toClip(s, takeUp(s, s.tracks[0], [0, 1], 'corrected')) ?? '');
    if (isProblem(clip)) throw new Error(clip.problem);
    const back = clipOfMidi(clipToMidi(clip));
    if (isProblem(back)) throw new Error(back.problem);
    expect(notesOfClip(back, s, 0)).toEqual(notesOfClip(clip, s, 0).map(({ ridden: _, ...n }) => n));
    const none = { problem: expect.stringMatching(/holds no notes/) };
    expect(clipOfMidi(Uint8Array.of(1, 2, 3))).toEqual(none);
    expect(clipOfMidi(writeSmf(newSong('Empty'), []))).toEqual(none);
  });

  it('a copy through the clipboard is the same notes, in a song of another resolution too', () => {
    const s = song([note(0, 960, { pitch: 50, velocity: 33, channel: 2 }), note(1, 1500, { length: 120 })]);
    const text = toClip(s, takeUp(s, s.tracks[0], [0, 1], 'corrected'));
    const clip = readClip(text ?? '');
    if (isProblem(clip)) throw new Error(clip.problem);
    const half = { ...newSong('Half', 480), tracks: [newTrack('t0', 'Bass')], nextId: 1 };
    expect(notesOfClip(clip, half, 100)).toMatchObject([
      { start: 100, length: 100, pitch: 50, velocity: 33, channel: 2 },
      { start: 370, length: 60 },
    ]);
    expect(pasted(clip, s, s.tracks[0], 9000, 'bar').map((n) => n.start)).toEqual([7680 + 960, 7680 + 1500]);
  });

  it('notes that are pasted lie as early or late against the line there as they did against theirs', () => {
    const first = newPart('p', 'Part', 0, 7680, { notes: [note(0, 3810), note(1, 4830)] });
    const second = newPart('p2', 'Second', 7680, 15_360);
    const base = { ...newSong('Two'), tracks: [newTrack('t', 'Bass', { parts: [first, second] })], nextId: 10 };
    const copied = (ids: number[]) => {
      const clip = readClip(toClip(base, takeUp(base, base.tracks[0], ids, 'played')) ?? '');
      if (isProblem(clip)) throw new Error(clip.problem);
      return clip;
    };
    const starts = (ids: number[], playhead: number, where: 'playhead' | 'bar') =>
      pasted(copied(ids), base, base.tracks[0], playhead, where).map((n) => n.start);
    // 30 ticks before bar 2, and 30 after its second beat.
    expect(starts([0, 1], 7680, 'playhead')).toEqual([7650, 8670]);
    expect(starts([0, 1], 8000, 'bar')).toEqual([7650, 8670]);
    expect(starts([1], 7680, 'playhead')).toEqual([7710]);
    expect(starts([1], 8000, 'bar')).toEqual([7680 + 990]);
    // Off the lines the first note comes to the playhead itself.
    expect(starts([0, 1], 7700, 'playhead')).toEqual([7700, 8720]);
    // Nothing begins before the song.
    expect(pasted(copied([0, 1]), base, base.tracks[0], 0, 'playhead')).toMatchObject([
      { start: 0, length: 170 },
      { start: 990, length: 200 },
    ]);
    // The early one comes into the part of its bar.
    const added = addNotes(base, 't', pasted(copied([0, 1]), base, base.tracks[0], 7680, 'playhead'));
    if (!added || isProblem(added)) throw new Error('no note');
    const [left, right] = applied(base, added.edit).song.tracks[0].parts;
    expect([left.notes.length, right.notes.map((n) => n.start)]).toEqual([2, [7650, 8670]]);
    expect([right.start, right.end]).toEqual([7680, 15_360]);
  });

  it('the same place in the bar is found where bars begin between two ticks, too', () => {
    const meter = [{ tick: 0, numerator: 5, denominator: 64, clocks: 24, thirtySeconds: 8 }] as const;
    const odd = { ...song([note(0, 295)], {}, { ppq: 961, meter }) };
    // Bars are 300.3125 ticks long.
    const clip = readClip(toClip(odd, takeUp(odd, odd.tracks[0], [0], 'played')) ?? '');
    if (isProblem(clip)) throw new Error(clip.problem);
    expect(clip).toMatchObject({ inBar: 0, lead: -5 });
  });

  it('an early note that is pasted where no part is begins one at its bar, not in the bar before', () => {
    const base = { ...newSong('Empty'), tracks: [newTrack('t', 'Bass')], nextId: 0 };
    const one = song([note(0, 3810)]);
    const clip = readClip(toClip(one, takeUp(one, one.tracks[0], [0], 'played')) ?? '');
    if (isProblem(clip)) throw new Error(clip.problem);
    const added = addNotes(base, 't', pasted(clip, base, base.tracks[0], 7680, 'playhead'));
    if (!added || isProblem(added)) throw new Error('no note');
    const [part] = applied(base, added.edit).song.tracks[0].parts;
    expect([part.start, part.end, part.notes[0].start]).toEqual([7680, 11_520, 7650]);
  });

  it('a clipboard of anything else is refused', () => {
    const texts = ['', 'early-sparrow-notes', '{"kind":"early-sparrow-notes"}', '<html>', 'null'];
    for (const text of texts) expect(readClip(text)).toEqual({ problem: expect.stringContaining('holds no notes') });
    const many = JSON.stringify({ kind: 'early-sparrow-notes', notes: new Array(100_001).fill(0) });
    expect(readClip(many)).toEqual({ problem: expect.stringContaining('too many notes') });
  });
});

describe('what undo keeps', () => {
  it('of a change of ten notes among a hundred thousand is under 10 kB', () => {
    const many = song(Array.from({ length: 100_000 }, (_, i) => note(i, i * 240)));
    const ids = [5, 100, 2000, 3000, 4000, 50_000, 60_000, 70_000, 80_000, 99_999];
    const shaped = move(many, many.tracks[0], ids, 'corrected', { ticks: 20, rows: 0, pitches: [] });
    if (!shaped || isProblem(shaped)) throw new Error('not moved');
    const { inverse } = applied(many, shaped);
    expect(JSON.stringify(inverse).length + JSON.stringify(shaped).length).toBeLessThan(10_000);
  });
});

describe('choosing notes', () => {
  const s = song([
    note(0, 0, { pitch: 36 }),
    note(1, 490, { pitch: 42, velocity: 40 }),
    note(2, 990, { pitch: 38, length: 100 }),
    note(3, 1440, { pitch: 42 }),
    note(4, 3840, { pitch: 36 }),
  ]);
  const p = part(s);

  it('by pitch, velocity, length, beat and offset', () => {
    expect(notesWith(s, p, 'corrected', 'pitch', 42, 42)).toEqual([1, 3]);
    expect(notesWith(s, p, 'corrected', 'velocity', 1, 79)).toEqual([1]);
    expect(notesWith(s, p, 'corrected', 'length', 0, 0.15)).toEqual([2]);
    expect(notesWith(s, p, 'corrected', 'beat', 1, 1)).toEqual([0, 4]);
    // 30 ticks are 15.6 ms at 120 BPM.
    expect(notesWith(s, p, 'corrected', 'late', 15, 1000)).toEqual([2]);
    expect(notesByBeat(s, p, true)).toEqual([0, 2, 4]);
    expect(notesByBeat(s, p, false)).toEqual([1, 3]);
    expect(notesOnLine(s, p, 'corrected')).toEqual([0, 1, 3, 4]);
    expect(notesWithin(s, p, 'corrected', 490, 1440)).toEqual([1, 2]);
    expect(notesLike(s, p, [0], 'pitch')).toEqual([0, 4]);
    expect(notesLike(s, p, [1], 'beat')).toEqual([1]);
  });
});

describe('tidying', () => {
  it('counts each note once, keeps the louder double, and finds strays by their neighbours', () => {
    const s = song([
      note(0, 0, { velocity: 60 }),
      note(1, 6, { velocity: 90 }),
      note(2, 480, { length: 4 }),
      note(3, 960, { velocity: 3 }),
      note(4, 1440, { pitch: 100 }),
      note(5, 1440, { length: 900 }),
      note(6, 1920),
    ]);
    const taken = takeUp(
      s,
      s.tracks[0],
      part(s).notes.map((n) => n.id),
      'corrected',
    );
    const wish = { doubles: 10, short: 10, soft: 5, strays: 24, overlaps: true };
    const found = findUntidy(taken, wish, timeOf(s).tempo);
    const ids = (list: readonly Taken[]) => list.map((t) => t.note.id);
    expect([ids(found.doubles), ids(found.short), ids(found.soft), ids(found.strays)]).toEqual([[0], [2], [3], [4]]);
    expect(found.overlaps.map((o) => [o.taken.note.id, o.length])).toEqual([[5, 480]]);
    const done = after(s, tidy(s.tracks[0], found));
    expect(part(done).notes.map((n) => [n.id, n.length])).toEqual([
      [1, 200],
      [5, 480],
      [6, 200],
    ]);
    const none = { doubles: null, short: null, soft: null, strays: null, overlaps: false };
    expect(tidy(s.tracks[0], findUntidy(taken, none, timeOf(s).tempo))).toBeNull();
  });
});
