import fc from 'fast-check';
import { partsOf, type Part } from '@early-sparrow/core/song';
import { factsOf, partLines, treatPart } from '@early-sparrow/core/treatment';
import { anySongAtAll } from './any';

/** What becomes of every note of a part. */
const leaves: Readonly<Record<string, (part: Part) => Part>> = {
  'some of them left, as it may be': (part) => part,
  'all of them left': (part) => ({
    ...part,
    notes: part.notes.map((n) => ({ ...n, exception: { kind: 'as-played' } as const })),
  }),
  'all of them were taken elsewhere': (part) => ({
    ...part,
    notes: part.notes.map((n, i) => ({
      ...n,
      exception: { kind: 'as-played' } as const,
      take: { start: (n.start * 7 + 400 * i) % 9000, length: n.length, velocity: n.velocity },
    })),
  }),
};

it.each(Object.keys(leaves))('the chords of a part hold each note once, in the order played: %s', (which) => {
  fc.assert(
    fc.property(anySongAtAll, (any) => {
      const song = { ...any, tracks: any.tracks.map((t) => ({ ...t, parts: t.parts.map(leaves[which]) })) };
      for (const { part } of partsOf(song)) {
        const { groups, start } = treatPart(part, song);
        const { chords, chord, count, played, line, before } = factsOf(part, song);
        const lines = partLines(part, song);
        const inGroups = new Set(groups.flatMap(({ members }) => [...(members ?? part.notes.keys())]));
        const seen: number[] = [];
        for (let c = 0; c < chords.count; c++) {
          const notes = [...chords.notes.subarray(chords.first[c], chords.first[c + 1])];
          seen.push(...notes);
          const alone = notes.length === 1 && !inGroups.has(notes[0]);
          expect(chords.treated[c]).toBe(alone ? 0 : 1);
          if (c > 0) expect(chords.played[c]).toBeGreaterThanOrEqual(chords.played[c - 1]);
          for (const i of notes) expect([chord[i], line[i]]).toEqual([c, chords.line[c]]);
          if (!alone) continue;
          const [i] = notes;
          expect([chords.played[c], chords.merged[c], chords.drift[c]]).toEqual([played[i], 0, NaN]);
          expect(line[i]).toBe(lines.nearest(Math.max(0, start[i])));
          expect(before[i]).toBe(chords.before[c]);
        }
        expect(chords.first[chords.count]).toBe(count);
        expect(seen.sort((a, b) => a - b)).toEqual([...part.notes.keys()]);
      }
    }),
  );
});
