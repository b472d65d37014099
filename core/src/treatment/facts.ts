import type { Lines, SongTime } from '../grid';
import { allZero, sameNumbers, type Pieces } from '../maths';
import type { TempoMap } from '../time';
import { knownOfKin, sameTime, timeOf, type Part, type Song, type SongContext } from '../song';
import { findChords, isEachAlone, placesOf, type ChordFacts, type FoundChords, type PlayedChords } from './chord-facts';
import { tableOf } from './note-table';
import { hasSilent, isSilent, partLines, treatPart, treatPieces, type TreatedGroup, type TreatedPart } from './treat';

/**
 * What is known about each note of a part: one table, from which the picture, the lanes, reports, messages and
 * selections are read. A column a property, a row a note in the order of the part. Ticks unless said.
 */
export interface Facts {
  readonly treated: TreatedPart;
  readonly count: number;
  /** Where the notes were played: their take. */
  readonly played: Float64Array;
  readonly playedEnd: Float64Array;
  readonly playedVelocity: Uint8Array;
  /** Where they lie now, after the treatment. */
  readonly now: Float64Array;
  readonly nowEnd: Float64Array;
  readonly velocity: Uint8Array;
  /** 1 for a note that does not sound, as the softer of a double. */
  readonly silent: Uint8Array;
  /** Line of each note; notes outside every treatment have the nearest of the part's. */
  readonly line: Float64Array;
  /** Offsets from the line in ms, early negative: as played, and now. */
  readonly before: Float64Array;
  readonly after: Float64Array;
  /** Index of each note's chord. */
  readonly chord: Int32Array;
  readonly chords: ChordFacts;
  /** The lines of the part's own treatment. */
  readonly lines: Lines;
}

const known = new WeakMap<TreatedPart, Facts>();

/** The facts about a part's notes; the same object as long as the part, its track and the song's time do not change. */
export function factsOf(part: Part, song: Song): Facts {
  const treated = treatPart(part, song);
  let facts = known.get(treated);
  if (!facts) known.set(treated, (facts = gather(treated, song)));
  return facts;
}

/** What {@link factsOf} gathers, in pieces. */
export function* factsPieces(part: Part, song: Song): Pieces<void> {
  yield* treatPieces(part, song);
  factsOf(part, song);
  yield;
}

function gather(treated: TreatedPart, song: SongContext): Facts {
  const { part, columns, start, end, velocity } = treated;
  const { count } = columns;
  const time = timeOf(song);
  const { tempo } = time;
  const { played, playedEnd, playedVelocity } = tableOf(part.notes);
  const silences = hasSilent(part) || treated.settled.dropped !== null;
  const silent = silences ? new Uint8Array(count) : allZero(count);
  if (silences) for (let i = 0; i < count; i++) if (isSilent(part, treated, i)) silent[i] = 1;
  const like = lastFacts(part.notes, time);
  const lines = (like && sameLines(like.found.groups, treated.groups) && like.facts.lines) || partLines(part, song);
  const found = findChords(treated, played, lines, tempo, like?.found);
  // While velocities or lengths are changed, all that has to do with places stays, as the very columns.
  const now = like && sameNumbers(start, like.facts.now) ? like.facts.now : start;
  const nowEnd = like && sameNumbers(end, like.facts.nowEnd) ? like.facts.nowEnd : end;
  const stays = like?.found === found && now === like.facts.now ? like.facts : null;
  const chords = stays?.chords ?? chordsNow(found.chords, now, tempo);
  const { line, chord, before, after } = stays ?? noteFacts(chords, played, now, tempo);
  const facts = {
    treated,
    count,
    played,
    playedEnd,
    playedVelocity,
    now,
    nowEnd,
    velocity,
    silent,
    line,
    before,
    after,
    chord,
    chords,
    lines,
  };
  latest.set(part.notes, { facts, found, time });
  return facts;
}

/** Facts with the time that they were gathered under. */
interface Gathered {
  readonly facts: Facts;
  readonly found: FoundChords;
  readonly time: SongTime;
}

const latest = new WeakMap<Part['notes'], Gathered>();

/** The facts that were gathered last of some notes, or of those before they were changed; none of another time. */
function lastFacts(notes: Part['notes'], time: SongTime): Gathered | undefined {
  const last = latest.get(notes) ?? knownOfKin(latest, notes)?.value;
  return last && sameTime(last.time, time) ? last : undefined;
}

/** Whether the lines of the part's own treatment are those that some groups before were under. */
function sameLines(before: readonly TreatedGroup[], now: readonly TreatedGroup[]): boolean {
  const [was, is] = [before, now].map((groups) => groups.find((g) => g.set === null)?.chords);
  return is !== undefined && was === is;
}

function chordsNow(found: PlayedChords, starts: Float64Array, tempo: TempoMap): ChordFacts {
  const now = placesOf(found, starts);
  return { ...found, now, after: tempo.betweenEach(found.line, now) };
}

/** What is known about each note by its chord. */
function noteFacts(
  chords: ChordFacts,
  played: Float64Array,
  now: Float64Array,
  tempo: TempoMap,
): Pick<Facts, 'line' | 'chord' | 'before' | 'after'> {
  const count = chords.notes.length;
  // Where each note is a chord, one table is the other.
  if (isEachAlone(chords)) return { ...chords, chord: chords.notes };
  const line = new Float64Array(count);
  const chord = new Int32Array(count);
  for (let c = 0; c < chords.count; c++) {
    for (let k = chords.first[c]; k < chords.first[c + 1]; k++) {
      const i = chords.notes[k];
      chord[i] = c;
      line[i] = chords.line[c];
    }
  }
  return { line, chord, before: tempo.betweenEach(line, played), after: tempo.betweenEach(line, now) };
}
