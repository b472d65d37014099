import fc from 'fast-check';
import { gridLines } from '@early-sparrow/core/grid';
import { grooveLines, grooveVelocities } from '@early-sparrow/core/groove';
import { partOffsets, songLean } from '@early-sparrow/core/insight';
import { RecipeSchema, recipeFromJson, recipeToJson } from '@early-sparrow/core/recipe';
import { grooveFromJson, grooveToJson, grooveToMidi, readSmf, writeSmf } from '@early-sparrow/core/smf';
import { GrooveSchema, isNote, NoteSchema, readSong, timeOf, TreatmentSchema } from '@early-sparrow/core/song';
import { scoreOf } from '@early-sparrow/core/sound';
import { correctedTrack, factsOf, perform, reportPart, treatTrack } from '@early-sparrow/core/treatment';
import { anyGridAtAll, anyGroove, anySongAtAll, anyTreatment } from './any';
import { song } from './build';

const time = timeOf(song([]));

describe('every value that a schema accepts works', () => {
  it('for treatments, which are what the schema says', () => {
    fc.assert(
      fc.property(anyTreatment, (t) => expect(TreatmentSchema.safeParse(t).success).toBe(true)),
      { numRuns: 200 },
    );
  });

  it('for grids: their lines ascend, and each place has one before and one after it', () => {
    fc.assert(
      fc.property(
        anyGridAtAll,
        fc.array(fc.double({ min: 0, max: 50_000, noNaN: true }), { maxLength: 20 }),
        (g, places) => {
          const lines = gridLines(g, time);
          for (const place of places) {
            lines.locate(place);
            expect(lines.before).toBeLessThanOrEqual(place);
            expect(lines.after).toBeGreaterThan(place);
          }
        },
      ),
      { numRuns: 500 },
    );
  });

  it('for grooves: lines ascend, each has a loudness of the groove, and files come back', () => {
    fc.assert(
      fc.property(anyGroove, fc.double({ min: 0, max: 1.5, noNaN: true }), (groove, timing) => {
        expect(GrooveSchema.safeParse(groove).success).toBe(true);
        const use = { groove, timing, velocity: 1 };
        const shift = { value: 0, unit: 'ms' } as const;
        const lines = grooveLines(use, shift, time).between(0, 20_000);
        expect(lines.length).toBeGreaterThan(0);
        expect(lines.every((l, i) => i === 0 || l > lines[i - 1])).toBe(true);
        const loud = grooveVelocities(use, shift, time);
        const velocities = new Set(groove.slots.map((s) => s.velocity));
        for (const line of lines) expect(velocities.has(loud(line))).toBe(true);
        expect(grooveFromJson(`\uFEFF${grooveToJson(groove)}`)).toEqual(JSON.parse(JSON.stringify(groove)));
        expect(() => readSmf(grooveToMidi(groove), 'x')).not.toThrow();
      }),
      { numRuns: 150 },
    );
  });

  it('for recipes: their files come back', () => {
    fc.assert(
      fc.property(anyTreatment, (treatment) => {
        const recipe = RecipeSchema.parse({
          kind: 'early-sparrow-recipe',
          version: 1,
          name: 'Any',
          about: '',
          treatment,
          auto: { grid: false, lag: false },
        });
        expect(recipeFromJson(`\uFEFF${recipeToJson(recipe)}`)).toEqual(JSON.parse(JSON.stringify(recipe)));
      }),
      { numRuns: 100 },
    );
  });

  it('for songs: they are treated, shown, heard, reported, written and read again', () => {
    fc.assert(
      fc.property(anySongAtAll, (s) => {
        expect(readSong(structuredClone(s))).toEqual(s);
        const [track] = s.tracks;
        const treated = treatTrack(track, s);
        for (const { start, end, velocity, part } of treated) {
          part.notes.forEach((_, i) => {
            expect(Number.isInteger(start[i]) && start[i] >= 0).toBe(true);
            expect(end[i]).toBeGreaterThanOrEqual(start[i]);
            expect(velocity[i] >= 1 && velocity[i] <= 127).toBe(true);
          });
          const facts = factsOf(part, s);
          expect(facts.chords.first[facts.chords.count]).toBe(facts.count);
          expect(facts.line.every(Number.isFinite)).toBe(true);
          expect(facts.chords.played.every((p, c) => c === 0 || p >= facts.chords.played[c - 1])).toBe(true);
          reportPart(part, s);
          partOffsets(part, s);
        }
        songLean(s);
        scoreOf(track, correctedTrack(track, s), timeOf(s).tempo);
        for (const which of ['played', 'corrected'] as const) {
          const performance = perform(s, which);
          const again = readSmf(writeSmf(s, performance), 'x').song;
          // What another program reads has every note where it sounds, ends that a key's next note cuts apart.
          const written = performance[0].notes.filter((n) => !n.note.muted);
          const read = again.tracks.flatMap((t) => t.parts.flatMap((p) => p.notes));
          const place = (tick: number, ppq: number) => Math.round((tick / ppq) * 1e6);
          expect(read.map((n) => `${place(n.start, again.ppq)} ${n.pitch} ${n.channel}`).sort()).toEqual(
            written.map((n) => `${place(n.start, s.ppq)} ${n.note.pitch} ${n.note.channel}`).sort(),
          );
        }
      }),
      { numRuns: 300 },
    );
  });
});

describe('a quick look at a note', () => {
  it('never passes what the schema refuses', () => {
    const junk = fc.oneof(
      fc.integer({ min: -2, max: 300 }),
      fc.double(),
      fc.constantFrom(null, undefined, true, 'x', {}, [1, 2], [null, 3]),
    );
    const mangled = fc.record(
      {
        id: junk,
        start: junk,
        length: junk,
        pitch: junk,
        velocity: junk,
        channel: junk,
        release: junk,
        order: junk,
        muted: junk,
        unended: junk,
        take: fc.oneof(
          junk,
          fc.record({ start: junk, length: junk, velocity: junk, order: junk }, { requiredKeys: [] }),
        ),
        exception: fc.oneof(
          junk,
          fc.record({
            kind: fc.constantFrom('own', 'pinned', 'as-played', 'x'),
            start: junk,
            length: junk,
            velocity: junk,
            set: junk,
          }),
        ),
      },
      { requiredKeys: [] },
    );
    const nearly = fc.tuple(mangled, fc.nat(11)).map(([m, which]) => {
      const good = { id: 1, start: 0, length: 5, pitch: 60, velocity: 80, channel: 0, release: 64 };
      const key = Object.keys(m)[which % Math.max(1, Object.keys(m).length)];
      return key === undefined ? good : { ...good, [key]: (m as Record<string, unknown>)[key] };
    });
    fc.assert(
      fc.property(fc.oneof(mangled, nearly, fc.anything()), (value) => {
        if (isNote(value)) expect(NoteSchema.safeParse(value).success).toBe(true);
      }),
      { numRuns: 4000 },
    );
  });
});
