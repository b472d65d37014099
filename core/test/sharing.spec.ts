import fc from 'fast-check';
import { byPlace, type Note, type Song } from '@early-sparrow/core/song';
import { factsOf, partColumns, treatPart, type Facts } from '@early-sparrow/core/treatment';
import { anySongAtAll } from './any';
import { note, part, song } from './build';

/** Another part comes between: nothing that was worked out before it is remembered as the last any more. */
const between = (): Facts => factsOf(part(song([note(0, 7)])), song([note(0, 7)]));

/** The song with the notes of its first part changed. */
function changed(s: Song, change: (note: Note, index: number) => Note): Song {
  const [track, ...tracks] = s.tracks;
  const [first, ...parts] = track.parts;
  const notes = first.notes.map(change).sort(byPlace);
  return { ...s, tracks: [{ ...track, parts: [{ ...first, notes }, ...parts] }, ...tracks] };
}

/** All numbers of a part's facts. */
function numbersOf(s: Song): unknown {
  const { treated, chords, lines: _lines, ...columns } = factsOf(part(s), s);
  const { columns: own, start, end, velocity } = treated;
  return { chords, columns, own, start, end, velocity };
}

describe('what is remembered from the notes before', () => {
  it('is what would be found anew, whatever changed between them', () => {
    const any = fc.record({
      s: anySongAtAll.filter((s) => s.tracks.length > 0 && s.tracks[0].parts.length > 0),
      what: fc.constantFrom('velocity', 'length', 'start', 'take', 'pitch', 'id', 'nothing'),
      which: fc.array(fc.nat(23), { maxLength: 4 }),
    });
    fc.assert(
      fc.property(any, ({ s, what, which }) => {
        const some = new Set(which);
        const after = changed(s, (n, i) => {
          if (!some.has(i)) return n;
          if (what === 'velocity') return { ...n, velocity: 1 + ((n.velocity + 20) % 127) };
          if (what === 'length') return { ...n, length: n.length + 13 };
          if (what === 'start') return { ...n, start: n.start + 31 };
          if (what === 'take') return { ...n, take: { start: n.start + 9, length: n.length, velocity: n.velocity } };
          if (what === 'pitch') return { ...n, pitch: (n.pitch + 1) % 128 };
          return what === 'id' ? { ...n, id: n.id + 1000 } : { ...n };
        });
        numbersOf(s);
        const found = numbersOf(after);
        between();
        const anew = changed(after, (n) => n);
        expect(numbersOf(anew)).toEqual(found);
      }),
      { numRuns: 400 },
    );
  });

  it('are all columns but that which changed', () => {
    const s = song([note(0, 0), note(1, 960), note(2, 1000)], { quantize: { on: true } });
    const before = factsOf(part(s), s);
    const louder = changed(s, (n) => ({ ...n, velocity: n.velocity + 1 }));
    const [was, now] = [partColumns(part(s)), partColumns(part(louder))];
    expect(now.start).toBe(was.start);
    expect(now.end).toBe(was.end);
    expect([...now.velocity]).toEqual([81, 81, 81]);
    const after = factsOf(part(louder), louder);
    expect(after.chords).toBe(before.chords);
    // The grid is not drawn anew for them.
    expect(after.lines).toBe(before.lines);
    expect(after.treated.groups[0].chords).toBe(before.treated.groups[0].chords);
    const later = changed(s, (n) => ({ ...n, start: n.start + 1 }));
    expect(factsOf(part(later), later).chords).not.toBe(before.chords);
    expect([...treatPart(part(later), later).columns.start]).toEqual([1, 961, 1001]);
  });
});
