import { isProblem, type Edit } from '@early-sparrow/core/edit';
import { findPart, roundsOf, type Part, type Song } from '@early-sparrow/core/song';
import {
  bestTakesEdit,
  BEST,
  compareTakes,
  origins,
  playedTakes,
  proposeTakes,
  swapEdit,
  type TakeTable,
} from '@early-sparrow/core/takes';
import { knownTakes, type BarTruth } from '../../tools/accuracy/takes';
import { applied, note, song as songOf } from './build';

function tableOf(part: Part, song: Song, bars = 1): TakeTable {
  const table = compareTakes(part, playedTakes(part), song, bars);
  if (!table) throw new Error('There is something to compare.');
  return table;
}

function made(edit: ReturnType<typeof bestTakesEdit>): Edit {
  if (!edit || isProblem(edit)) throw new Error(edit?.problem ?? 'nothing');
  return edit;
}

/** Whether one bar is better than another: by a wrong or missing note, or by 5 ms. */
function isBetter(a: BarTruth, b: BarTruth): boolean {
  if (a.faults !== b.faults) return a.faults < b.faults && a.missMs <= b.missMs + 5;
  return a.missMs <= b.missMs - 5;
}

describe('the best of each take', () => {
  it('is proposed in nine of ten bars in which one take is better by 5 ms or by a note', () => {
    let [bars, right] = [0, 0];
    for (let seed = 1; seed <= 60; seed++) {
      const { song, part, truth } = knownTakes(seed, 3 + (seed % 4));
      const choices = proposeTakes(tableOf(part, song));
      expect(choices).toHaveLength(8);
      choices.forEach(({ take }, b) => {
        const column = truth.map((row) => row[b]);
        const best = column.findIndex((c, k) => column.every((o, l) => l === k || isBetter(c, o)));
        if (best < 0) return;
        bars++;
        if (take === best) right++;
      });
    }
    expect(bars).toBeGreaterThan(100);
    expect(right / bars).toBeGreaterThanOrEqual(0.9);
  });

  it('is put together without a note that is cut, doubled or lost, and without a pedal that is held', () => {
    for (let seed = 1; seed <= 40; seed++) {
      const { song, part } = knownTakes(seed, 4);
      const table = tableOf(part, song);
      const choices = proposeTakes(table).map((c) => c.take);
      const done = applied(song, made(bestTakesEdit(song, part.id, table, choices, BEST)));
      const best = partOf(done.song, part.id);
      const wanted = choices.flatMap((k, s) =>
        table.takes[k!].content.notes.filter((_, i) => table.sectionOf[k!][i] === s).map(soundOf),
      );
      expect(best.notes.map(soundOf).sort()).toEqual(wanted.sort());
      expect(pedalStates(best)).toEqual(Array.from({ length: 16 }, (_, i) => (i % 2 === 0 ? 'down' : 'up')));
      // The takes that were played stay as they are, and so does the song once it is undone.
      expect(playedTakes(best)).toEqual(playedTakes(part));
      expect(JSON.stringify(applied(done.song, done.inverse).song.tracks)).toBe(JSON.stringify(song.tracks));
      expect(new Set(best.notes.map((n) => n.id)).size).toBe(best.notes.length);
      expect(origins(table, best)).toEqual(choices);
    }
  });

  it('takes one bar from another take, and leaves what was changed by hand elsewhere', () => {
    const { song, part } = knownTakes(3, 4);
    const table = tableOf(part, song);
    const all = table.sections.map(() => 0);
    const first = applied(song, made(bestTakesEdit(song, part.id, table, all, BEST))).song;
    const at = partOf(first, part.id).notes.findIndex((n) => n.start > 5 * 3840);
    const louder = { ...partOf(first, part.id).notes[at], velocity: 127 };
    const edit: Edit = { kind: 'notes', name: 'x', part: part.id, remove: [louder.id], add: [louder] };
    const byHand = applied(first, edit).song;
    expect(origins(table, partOf(byHand, part.id))).toEqual([0, 0, 0, 0, 0, null, 0, 0]);
    const done = applied(byHand, made(swapEdit(byHand, part.id, table, 2, 3, 'Bar 3 from Take 4')));
    const best = partOf(done.song, part.id);
    expect(origins(table, best)).toEqual([0, 0, 3, 0, 0, null, 0, 0]);
    expect(best.notes).toContainEqual(louder);
    expect(pedalStates(best)).toHaveLength(16);
    const elsewhere = (p: Part) => p.notes.filter((n) => n.start < 1.9 * 3840 || n.start > 3.1 * 3840);
    expect(elsewhere(best)).toEqual(elsewhere(partOf(byHand, part.id)));
    expect(JSON.stringify(applied(done.song, done.inverse).song.tracks)).toBe(JSON.stringify(byHand.tracks));
  });

  it('swaps the first and the last bar, and goes back to the one that was put together before', () => {
    const { song, part } = knownTakes(5, 3);
    const table = tableOf(part, song);
    let now = song;
    for (const [section, take] of [
      [0, 1],
      [7, 0],
    ]) {
      now = applied(now, made(swapEdit(now, part.id, table, section, take, 'x'))).song;
    }
    expect(origins(table, partOf(now, part.id))).toEqual([1, 2, 2, 2, 2, 2, 2, 0]);
    const away = applied(now, { kind: 'part-take', name: 'x', part: part.id, take: 'take900' }).song;
    const back = applied(away, made(swapEdit(away, part.id, table, 3, 1, 'x'))).song;
    expect(origins(table, partOf(back, part.id))).toEqual([1, 2, 2, 1, 2, 2, 2, 0]);
    expect(roundsOf(partOf(back, part.id)).filter((r) => r.compiled)).toHaveLength(1);
  });

  it('joins nowhere where a note sounds across, and says which take would have been better there', () => {
    // The second take is better in the second bar, but its first bar rings on into it.
    const bar = 3840;
    const uneven = [0, 60, -60];
    const first = (id: number, by: number) =>
      [0, 960, 1920].map((t, i) => note(id + i, Math.max(0, t + by * uneven[i]), i === 2 ? { length: bar } : {}));
    const second = (id: number, by: number) =>
      [0, 960, 1920].map((t, i) => note(id + i, bar + t + by * uneven[i], { pitch: 64 }));
    const song = withTakes([
      [...first(10, 0), ...second(14, 1)],
      [...first(20, 1), ...second(24, 0)],
      [...first(30, 1), ...second(34, 1)],
    ]);
    const part = song.tracks[0].parts[0];
    const table = tableOf(part, song);
    const choices = proposeTakes(table);
    expect(new Set(choices.map((c) => c.take)).size).toBe(1);
    expect(choices.some((c) => c.kept !== null)).toBe(true);
    // Four bars are nothing to join: both are one section.
    expect(tableOf(part, song, 4).sections).toHaveLength(1);
  });

  it('tells which of two takes has a note of its own, but not which of them is wrong', () => {
    const notes = (id: number, pitch: number) => [note(id, 0), note(id + 1, 960, { pitch }), note(id + 2, 1920)];
    const two = withTakes([notes(10, 60), notes(20, 61)]);
    const cells = tableOf(two.tracks[0].parts[0], two).cells.map((row) => row[0]);
    expect(cells.map((c) => [c?.wrong, c?.missed, c?.extra])).toEqual([
      [0, 0, 0],
      [0, 0, 0],
    ]);
    expect(proposeTakes(tableOf(two.tracks[0].parts[0], two))[0].equal).toHaveLength(1);
    const three = withTakes([notes(10, 60), notes(20, 61), notes(30, 60)]);
    const table = tableOf(three.tracks[0].parts[0], three);
    expect(table.cells.map((row) => row[0]?.wrong)).toEqual([0, 1, 0]);
  });

  it('knows takes of other lengths, takes without a note in common, empty ones and one alone', () => {
    const at = (id: number, bars: readonly number[], pitch = 60) =>
      bars.map((b, i) => note(id + i, b * 3840, { pitch }));
    const lengths = withTakes([at(10, [0, 1, 2, 3]), at(20, [0, 1]), []]);
    const part = lengths.tracks[0].parts[0];
    const table = tableOf(part, lengths);
    expect(table.cells.map((row) => row.map((c) => c?.notes ?? null))).toEqual([
      [1, 1, 1, 1],
      [1, 1, null, null],
      [null, null, null, null],
    ]);
    expect(
      proposeTakes(table)
        .slice(2)
        .map((c) => c.take),
    ).toEqual([0, 0]);
    const strangers = withTakes([at(10, [0, 1]), at(20, [0, 1], 70), at(30, [0, 1], 80)]);
    const cells = tableOf(strangers.tracks[0].parts[0], strangers).cells.flat();
    expect(cells.every((c) => c?.extra === 1 && c.missed === 0)).toBe(true);
    expect(compareTakes(part, [{ id: 'x', name: 'X', content: { notes: [], events: [] } }], lengths)).toBeNull();
    expect(bestTakesEdit(songOf([note(1, 0)]), 'p', table, [0], 'x')).toHaveProperty('problem');
  });
});

function partOf(song: Song, id: string): Part {
  return findPart(song, id)!.part;
}

function soundOf({ start, length, pitch, velocity }: Part['notes'][number]): string {
  return [start, length, pitch, velocity].join(' ');
}

/** What the pedal does, one after the other. */
function pedalStates({ events }: Part): string[] {
  return events.flatMap((e) => (e.type === 'controller' && e.controller === 64 ? [e.value > 0 ? 'down' : 'up'] : []));
}

/** A song of one part with these takes, of which the last is chosen. */
function withTakes(takes: readonly (readonly Part['notes'][number][])[]): Song {
  const base = songOf([...takes[takes.length - 1]], {}, { nextId: 100 });
  const rounds = takes.map((notes, k) => ({ id: `take${50 + k}`, name: `Take ${k + 1}`, notes, events: [] }));
  const { id, name } = rounds[rounds.length - 1];
  const part = { ...base.tracks[0].parts[0], takes: { chosen: { id, name }, others: rounds.slice(0, -1) } };
  return { ...base, tracks: [{ ...base.tracks[0], parts: [part] }] };
}
