import { applyEdit, isProblem, moveParts, partsStop } from '@early-sparrow/core/edit';
import type { Part, Song } from '@early-sparrow/core/song';
import { perform } from '@early-sparrow/core/treatment';
import { applied, note, song, treatment } from './build';
import { twoTracks } from './make-edits';

const base = twoTracks();

describe('parts', () => {
  const held = (p: Part) => p.events.map((e) => [e.type, e.tick, 'value' in e ? e.value : 0]);
  const cut = applied(base, { kind: 'part-cut', name: 'Cut', part: 'p', at: 1500, id: 20 }).song;
  const [left, right] = cut.tracks[0].parts;

  it('are cut with what is held: closed on the left, set again on the right', () => {
    expect(left.notes.map((n) => n.id)).toEqual([0, 1]);
    expect(right.notes.map((n) => n.id)).toEqual([2, 3]);
    expect(held(left)).toEqual([
      ['controller', 10, 127],
      ['bend', 1000, 300],
      ['controller', 1500, 0],
      ['bend', 1500, 0],
    ]);
    expect(held(right)).toEqual([
      ['controller', 1500, 127],
      ['bend', 1500, 300],
      ['controller', 3700, 0],
    ]);
  });

  it('that were cut and joined again are what they were', () => {
    const joined = applied(cut, { kind: 'part-join', name: 'Join', part: 'p', with: 'p20', id: cut.nextId }).song;
    expect(joined.tracks).toEqual(base.tracks);
  });

  it('keep what each of them sounded like when they are joined', () => {
    const sound = (s: Song) =>
      perform(s, 'corrected')[0]
        .notes.map((n) => [n.note.id, n.start])
        .sort((a, b) => a[0] - b[0]);
    const other = applied(base, {
      kind: 'treatment',
      name: 'x',
      part: 'p6',
      treatment: treatment({ push: { on: true, amount: { value: 33, unit: 'ticks' } } }),
    }).song;
    const joined = applied(other, { kind: 'part-join', name: 'Join', part: 'p', with: 'p6', id: 20 }).song;
    expect(sound(joined)).toEqual(sound(other));
    const off = applied(other, { kind: 'part-on', name: 'x', part: 'p', on: false }).song;
    expect(sound(applied(off, { kind: 'part-join', name: 'Join', part: 'p', with: 'p6', id: 20 }).song)).toEqual(
      sound(off),
    );
  });

  it('keep little of themselves for undoing a join, and come back to the byte', () => {
    const many = song(Array.from({ length: 20_000 }, (_, i) => note(i, i * 100, { pitch: 40 + (i % 30) })));
    const cut = applied(many, { kind: 'part-cut', name: 'Cut', part: 'p', at: 1_000_000, id: many.nextId }).song;
    const id = cut.tracks[0].parts[1].id;
    const push = treatment({ push: { on: true, amount: { value: 33, unit: 'ticks' } } });
    for (const change of [
      [],
      [{ kind: 'treatment', name: 'x', part: id, treatment: push } as const],
      [{ kind: 'part-on', name: 'x', part: id, on: false } as const],
      [{ kind: 'part-on', name: 'x', part: 'p', on: false } as const],
    ]) {
      const before = change.reduce((s, edit) => applied(s, edit).song, cut);
      const join = applied(before, { kind: 'part-join', name: 'Join', part: 'p', with: id, id: before.nextId });
      expect(JSON.stringify(join.inverse).length).toBeLessThan(10_000);
      const back = applied(join.song, join.inverse);
      expect(back.song).toEqual(before);
      expect(applied(back.song, back.inverse).song).toEqual(join.song);
    }
  });

  it('take everything along when they move, and go nowhere before the song', () => {
    const moved = applied(base, { kind: 'part-move', name: 'x', part: 'p', track: 't', by: 3840 }).song.tracks[0]
      .parts[0];
    expect(moved).toMatchObject({ start: 3840, end: 7680 });
    expect(moved.notes.map((n) => n.start)).toEqual([3860, 4760, 5660, 6560]);
    expect(held(moved)[0]).toEqual(['controller', 3850, 127]);
    expect(applyEdit(base, { kind: 'part-move', name: 'x', part: 'p', track: 't', by: -1 })).toMatchObject({
      problem: '“Part” would begin before the song.',
    });
  });

  it('are refused on another part, or cut it, as is wished', () => {
    const below = { by: 1920, rows: 1, listed: base.tracks.map((t) => t.id) };
    expect(moveParts(base, ['p'], below, 'refuse')).toMatchObject({
      problem: expect.stringContaining('“Other”') as string,
    });
    const edit = moveParts(base, ['p'], below, 'cut');
    if (!edit || isProblem(edit)) throw new Error('It was not made.');
    const after = applied(base, edit).song.tracks[1].parts;
    expect(after.map((p) => [p.start, p.end])).toEqual([
      [1920, 5760],
      [5760, 7680],
    ]);
  });

  it('stop together at the song’s start and at the first and last track, as they do where they are dropped', () => {
    const listed = base.tracks.map((t) => t.id);
    const [first] = base.tracks[0].parts;
    const far = { by: -100_000, rows: 9, listed };
    const stop = partsStop(base, [first.id], far);
    expect(stop.down).toBe(listed.length - 1);
    const aside = partsStop(base, [first.id], { ...far, by: 960 });
    expect(aside.ticks).toBe(960);
    const edit = moveParts(base, [first.id], { ...far, rows: 0, by: 500 }, 'cut');
    if (!edit || isProblem(edit)) throw new Error('It was not made.');
    const later = applied(base, edit).song;
    expect(partsStop(later, [first.id], { ...far, rows: -1 })).toEqual({ ticks: -500 + stop.ticks, down: 0 });
    expect(partsStop(base, ['gone'], far)).toEqual({ ticks: 0, down: 0 });
  });

  it('do not leave notes outside of their span', () => {
    expect(applyEdit(base, { kind: 'part-span', name: 'x', part: 'p', start: 0, end: 2000 })).toMatchObject({
      problem: expect.stringContaining('one note') as string,
    });
    expect(
      applied(base, { kind: 'part-span', name: 'x', part: 'p', start: 0, end: 5000 }).song.tracks[0].parts[0].end,
    ).toBe(5000);
  });

  it('are silent when they are muted, with their events', () => {
    const muted = applied(base, {
      kind: 'part-look',
      name: 'x',
      part: 'p',
      to: 'Part',
      colour: null,
      muted: true,
    }).song;
    for (const which of ['played', 'corrected'] as const) {
      const [track] = perform(muted, which);
      expect(track.notes.map((n) => n.note.id)).toEqual([8, 9]);
      expect(track.events.filter((e) => e.event.type === 'controller')).toEqual([]);
    }
  });
});
