import type { Lines, SongTime } from '../grid';
import { inBlocks, sameNumbers, type Pieces } from '../maths';
import {
  knownOfKin,
  perTime,
  sameTime,
  timeOf,
  type Part,
  type SongContext,
  type Track,
  type Treatment,
} from '../song';
import type { Assignment } from './assign';
import { joinColumns, type NoteColumns } from './columns';
import type { Marks } from './marks';
import { tableOf, tablePieces, type Membership } from './note-table';
import { chordPlaces, dependsOn, ownerOf, referenceTrack, usesOf } from './reference';
import { settle, type Settled } from './settle';
import { shapesVelocities, treatmentLines, type TimeStage } from './treater';
import { treatersOf } from './treaters';

/** Some notes of a part under one treatment. */
export interface TreatedGroup {
  /** Id of the exception's own settings; null for the part's treatment. */
  readonly set: string | null;
  readonly treatment: Treatment;
  /** Indices of the notes in the part; null for all of them. */
  readonly members: Int32Array | null;
  /** Their chords and lines, whether or not quantize is on. */
  readonly chords: Assignment;
}

/** A part's notes after stages 1 to 6, before they are settled with the rest of the track. */
interface StagedPart {
  readonly columns: NoteColumns;
  readonly start: Float64Array;
  readonly end: Float64Array;
  readonly velocity: Uint8Array;
  readonly groups: readonly TreatedGroup[];
}

/** A part's corrected notes, in the order of its own notes. Starts and ends in whole ticks. */
export interface TreatedPart extends StagedPart {
  readonly part: Part;
  readonly settled: Settled;
}

const stage = perTime(stageNow, { also: (part: Part, song: SongContext) => referencesOf([part], song) });

/**
 * The chords of the track that a treatment's lines go by, in ticks, ascending; null where it goes by its grid alone.
 * Of two tracks that go by each other, or in a circle, each goes by the other as it was played.
 */
export function referencePlaces(
  use: Treatment['quantize']['with'],
  owner: Track | null,
  song: SongContext,
): Float64Array | null {
  const track = referenceTrack(use, owner, song);
  if (!track) return null;
  const asPlayed = use?.as === 'played' || (owner !== null && dependsOn(track, owner, song));
  return asPlayed ? playedPlaces(track.parts, song) : correctedPlaces(track.parts, song);
}

/** The lines of a part's own treatment. */
export function partLines(part: Part, song: SongContext): Lines {
  const { reference } = sourcesOf(part.treatment, part, song);
  return treatmentLines(part.treatment.quantize, timeOf(song), reference);
}

/** What the lines of a treatment in a part are found by. */
function sourcesOf({ quantize }: Treatment, part: Part, song: SongContext) {
  const reference = quantize.with ? referencePlaces(quantize.with, ownerOf(part, song), song) : null;
  return { reference, follower: song.follower };
}

const playedPlaces = perTime((parts: Track['parts'], song: SongContext) =>
  chordPlaces(
    parts.flatMap((part) => (part.muted ? [] : part.notes.filter((n) => !n.muted).map((n) => n.start))),
    song,
  ),
);

const correctedPlaces = perTime(
  (parts: Track['parts'], song: SongContext) => {
    const starts = treatParts(parts, song).flatMap((treated) =>
      treated.part.muted ? [] : [...treated.start].filter((_, i) => sounds(treated, i)),
    );
    const places = chordPlaces(starts, song);
    // What comes out the same is the same: what depends on it need not be found anew.
    const before = lastPlaces.get(parts);
    if (before && sameNumbers(before, places)) return before;
    lastPlaces.set(parts, places);
    return places;
  },
  { also: referencesOf },
);

const lastPlaces = new WeakMap<Track['parts'], Float64Array>();

function sounds(treated: TreatedPart, index: number): boolean {
  return !treated.part.notes[index].muted && !isSilent(treated.part, treated, index);
}

/** The chords of all tracks that parts go by: what their corrected notes depend on beside themselves. */
export function referencesOf(parts: readonly Part[], song: SongContext): readonly unknown[] {
  const uses = usesOf({ parts });
  if (uses.length === 0 || !song.tracks) return [];
  const owner = ownerOf(parts[0], song);
  return uses.map((use) => referencePlaces(use, owner, song));
}

/**
 * The corrected notes of a track, a part each: a pure function of its parts and the song's tempo and meter. The
 * parts run through their treatments one by one; then the track is settled as a whole, across their borders too.
 */
export function treatTrack(track: Pick<Track, 'parts'>, song: SongContext): readonly TreatedPart[] {
  return treatParts(track.parts, song);
}

const treatParts = perTime(treatPartsNow, { also: referencesOf });

function treatPartsNow(parts: readonly Part[], song: SongContext): readonly TreatedPart[] {
  if (parts.length === 1) {
    // Of a lone part the staged notes are needed nowhere else: they are settled in place.
    const [part] = parts;
    const treated = reweighed(part, song) ?? treatAlone(part, song);
    latest.set(part.notes, { treated, time: timeOf(song) });
    return [treated];
  }
  return settleTogether(
    parts,
    parts.map((part) => stage(part, song)),
  );
}

function treatAlone(part: Part, song: SongContext): TreatedPart {
  const staged = stageNow(part, song);
  return { part, ...staged, settled: settle(staged.columns, staged, staged.velocity, rulesOf([part])) };
}

/** Lone parts as they were treated last, by their notes. */
const latest = new WeakMap<Part['notes'], { readonly treated: TreatedPart; readonly time: SongTime }>();

/** A lone part of which only velocities changed: every place in it stays. Null where more has, or stages ask for velocities. */
function reweighed(part: Part, song: SongContext): TreatedPart | null {
  const like = knownOfKin(latest, part.notes)?.value;
  if (!like || !sameTime(like.time, timeOf(song))) return null;
  const { treated } = like;
  const before = treated.part;
  if (part.treatment !== before.treatment || part.sets !== before.sets || part.on !== before.on) return null;
  const { columns, membership } = tableOf(part.notes);
  const { start, end, id, voice } = treated.columns;
  const places = columns.start === start && columns.end === end && columns.id === id && columns.voice === voice;
  const pins = membership?.pinned ?? NONE;
  if (!places || tableOf(before.notes).membership !== membership || !pins.every((i) => samePin(part, before, i))) {
    return null;
  }
  // Who is louder matters to doubles, and who does not sound stands in nobody's way.
  const silent = part.muted || before.muted || hasSilent(part) || hasSilent(before);
  if (silent || treated.settled.doubles.length > 0) return null;
  const groups = groupsOf(part, song);
  const same =
    groups.length === treated.groups.length &&
    groups.every((g, k) => g.chords === treated.groups[k].chords && !shapesVelocities(g.treatment));
  if (!same) return null;
  const velocity = columns.velocity.slice();
  if (part.on) for (const i of pins) velocity[i] = pinOf(part, i)?.velocity ?? velocity[i];
  return { ...treated, part, columns, groups, velocity };
}

function samePin(a: Part, b: Part, index: number): boolean {
  const [one, other] = [pinOf(a, index), pinOf(b, index)];
  return one?.start === other?.start && one?.length === other?.length;
}

function pinOf({ notes }: Part, index: number): Extract<Part['notes'][number]['exception'], { kind: 'pinned' }> | null {
  const { exception } = notes[index];
  return exception?.kind === 'pinned' ? exception : null;
}

/** The corrected notes of a part as it stands in its track; of one that is in no track of the song, by itself. */
export function treatPart(part: Part, song: SongContext): TreatedPart {
  for (const track of song.tracks ?? []) {
    const index = track.parts.indexOf(part);
    if (index >= 0) return treatTrack(track, song)[index];
  }
  return alone(part, song);
}

/** What {@link treatPart} computes, in pieces: afterwards it is there at once. */
export function* treatPieces(part: Part, song: SongContext): Pieces<void> {
  yield* columnsPieces(part);
  for (const { set, treatment, members } of splitGroups(part)) {
    yield;
    treatersOf(part.notes, song)
      .of(set, members)
      .chords(treatment, sourcesOf(treatment, part, song));
  }
  yield;
  treatPart(part, song);
  yield;
}

const alone = perTime((part: Part, song: SongContext): TreatedPart => treatParts([part], song)[0], {
  also: (part: Part, song: SongContext) => referencesOf([part], song),
});

/** A part's notes as columns; the same object as long as the notes do not change. */
export function partColumns({ notes }: Pick<Part, 'notes'>): NoteColumns {
  return tableOf(notes).columns;
}

/** What {@link partColumns} gives, of very many notes in pieces. */
export function* columnsPieces({ notes }: Pick<Part, 'notes'>): Pieces<NoteColumns> {
  return (yield* tablePieces(notes)).columns;
}

/** What some of a part's notes have; the same object as long as the notes do not change. */
export function marksOf({ notes }: Pick<Part, 'notes'>): Marks {
  return tableOf(notes).marks;
}

/** Settles the parts of a track as one: what one part's notes run into may be another's. */
function settleTogether(parts: readonly Part[], staged: readonly StagedPart[]): TreatedPart[] {
  const columns = joinColumns(staged.map((s) => s.columns));
  const start = new Float64Array(columns.count);
  const end = new Float64Array(columns.count);
  const velocity = new Uint8Array(columns.count);
  const first = [0];
  for (const s of staged) {
    const at = first[first.length - 1];
    start.set(s.start, at);
    end.set(s.end, at);
    velocity.set(s.velocity, at);
    first.push(at + s.columns.count);
  }
  const settled = settle(columns, { start, end }, velocity, rulesOf(parts));
  return parts.map((part, p): TreatedPart => {
    const [from, to] = [first[p], first[p + 1]];
    const own = (list: readonly number[]) => list.filter((i) => i >= from && i < to).map((i) => i - from);
    return {
      part,
      columns: staged[p].columns,
      groups: staged[p].groups,
      start: start.subarray(from, to),
      end: end.subarray(from, to),
      velocity: velocity.subarray(from, to),
      settled: {
        doubles: own(settled.doubles),
        held: own(settled.held),
        cut: own(settled.cut),
        dropped: settled.dropped?.subarray(from, to) ?? null,
      },
    };
  });
}

function rulesOf(parts: readonly Part[]): { drops: (note: number) => boolean; silent: Uint8Array | null } {
  if (parts.length === 1) {
    const { dropDoubles } = parts[0].treatment.settle;
    return { drops: () => dropDoubles, silent: silentNotes(parts) };
  }
  const drops = parts.flatMap((p) => p.notes.map(() => p.treatment.settle.dropDoubles));
  return { drops: (note) => drops[note], silent: silentNotes(parts) };
}

/** Notes that stand in nobody's way: muted ones, and those that Keep left silent; null where there are none. */
function silentNotes(parts: readonly Part[]): Uint8Array | null {
  const isSilentNote = (part: Part, n: Part['notes'][number]) => part.muted || n.muted === true || isDropped(n);
  if (!parts.some((p) => p.muted || hasSilent(p))) return null;
  const silent = new Uint8Array(parts.reduce((sum, p) => sum + p.notes.length, 0));
  let at = 0;
  for (const part of parts) for (const n of part.notes) silent[at++] = isSilentNote(part, n) ? 1 : 0;
  return silent;
}

const lastEnds = new WeakMap<Float64Array, number>();

/** Where the last of a part's own notes ends; 0 for none. Ticks. Notes that were changed have their columns already. */
export function lastEndOf(part: Pick<Part, 'notes'>): number {
  const { end } = partColumns(part);
  let last = lastEnds.get(end);
  if (last === undefined) {
    last = 0;
    for (let i = 0; i < end.length; i++) if (end[i] > last) last = end[i];
    lastEnds.set(end, last);
  }
  return last;
}

/** What each of a part's notes has, as bits of {@link MARK}; the same object as long as none has anything else. */
export function bitsOf({ notes }: Pick<Part, 'notes'>): Uint8Array {
  return tableOf(notes).bits;
}

/** Which notes are under which settings, and which are pinned: the same object as long as none is otherwise; null for no exception. */
export function exceptionsOf({ notes }: Pick<Part, 'notes'>): Membership | null {
  return tableOf(notes).membership;
}

/** Whether any note of a part does not sound by itself. */
export function hasSilent(part: Pick<Part, 'notes'>): boolean {
  const { muted, dropped } = marksOf(part);
  return muted + dropped > 0;
}

function stageNow(part: Part, song: SongContext): StagedPart {
  const columns = partColumns(part);
  const groups = groupsOf(part, song);
  let { start, end, velocity } = columns;
  let fresh = false;
  for (const { set, treatment, members } of part.on ? groups : []) {
    const treater = treatersOf(part.notes, song).of(set, members);
    const by = sourcesOf(treatment, part, song);
    const staged = members ? treater.kept(treatment, by) : treater.stages(treatment, by);
    if (!members) {
      ({ start, end } = staged);
      velocity = staged.velocity.slice();
      fresh = true;
    } else {
      if (!fresh) [start, end, velocity] = [start.slice(), end.slice(), velocity.slice()];
      fresh = true;
      for (let i = 0; i < members.length; i++) {
        const note = members[i];
        start[note] = staged.start[i];
        end[note] = staged.end[i];
        velocity[note] = staged.velocity[i];
      }
    }
  }
  if (!fresh) [start, end, velocity] = [start.slice(), end.slice(), velocity.slice()];
  if (part.on) placePins(part, start, end, velocity);
  return { columns, start, end, velocity, groups };
}

/** The notes under each treatment, with their chords. */
function groupsOf(part: Part, song: SongContext): TreatedGroup[] {
  return splitGroups(part).map(({ set, treatment, members }) => {
    const treater = treatersOf(part.notes, song).of(set, members);
    return { set, treatment, members, chords: treater.chords(treatment, sourcesOf(treatment, part, song)) };
  });
}

/**
 * Runs the treatment of one note's group once more, and tells where the note starts after each stage that is on.
 * @param told is given the stage and the start in ticks, which need not be whole
 * @returns the note's chord, with its line; null where the note is under no treatment that is on
 */
export function watchNote(
  part: Part,
  song: SongContext,
  index: number,
  told: (stage: TimeStage, start: number) => void,
): { readonly group: TreatedGroup; readonly chord: number } | null {
  if (!part.on) return null;
  for (const { set, treatment, members } of splitGroups(part)) {
    const own = members ? members.indexOf(index) : index;
    if (own < 0) continue;
    const treater = treatersOf(part.notes, song).of(set, members);
    const by = sourcesOf(treatment, part, song);
    const chords = treater.chords(treatment, by);
    treater.stages(treatment, by, (stage, times) => told(stage, times.start[own]));
    let chord = 0;
    while (chord + 1 < chords.count && chords.first[chord + 1] <= own) chord++;
    return { group: { set, treatment, members, chords }, chord };
  }
  return null;
}

/** Whether a note does not sound, as the softer of a double: of one that came about now, or since Keep. */
export function isSilent(part: Part, treated: Pick<TreatedPart, 'settled'>, index: number): boolean {
  return treated.settled.dropped?.[index] === 1 || isDropped(part.notes[index]);
}

function isDropped(note: Part['notes'][number]): boolean {
  return note.exception?.kind === 'dropped';
}

function placePins(part: Part, start: Float64Array, end: Float64Array, velocity: Uint8Array): void {
  const pinned = tableOf(part.notes).membership?.pinned ?? NONE;
  inBlocks(pinned.length, (from, to) => {
    for (let k = from; k < to; k++) {
      const i = pinned[k];
      const pin = pinOf(part, i);
      if (!pin) continue;
      start[i] = pin.start;
      end[i] = pin.start + pin.length;
      velocity[i] = pin.velocity;
    }
  });
}

const NONE = new Int32Array(0);

/** The notes under the part's treatment, and those of each set of own settings. */
function splitGroups(part: Part): { set: string | null; treatment: Treatment; members: Int32Array | null }[] {
  const { membership } = tableOf(part.notes);
  if (!membership) return [{ set: null, treatment: part.treatment, members: null }];
  return [{ id: null, treatment: part.treatment }, ...part.sets]
    .map(({ id, treatment }) => ({ set: id, treatment, members: membership.members.get(id) ?? NONE }))
    .filter((g) => g.members.length > 0);
}
