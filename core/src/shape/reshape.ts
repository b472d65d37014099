import {
  changeNotes,
  editsIn,
  isProblem,
  spanWith,
  stepOf,
  type Edit,
  type EditProblem,
  type SimpleEdit,
} from '../edit';
import { atOnce, eachOf, whole, type Each, type Pieces } from '../maths';
import { changedNote, takeOf, type Note, type OwnSet, type Part, type Track, type Treatment } from '../song';
import type { Ticks } from '../time';
import { shapesVelocities } from '../treatment';
import type { PartChange } from './part-change';
import { rideAlong } from './ride';
import type { Taken } from './taken';

/** What becomes of a note; what is left out stays as it is. Times in ticks, rounded to whole ones. */
export interface Becomes {
  readonly start?: Ticks;
  /** At least 1. */
  readonly length?: Ticks;
  /** Kept within 1 and 127. */
  readonly velocity?: number;
  readonly pitch?: number;
  readonly muted?: boolean;
}

/** A change of some notes, or why it cannot be made; null where nothing would change. */
export type Shaped = Edit | EditProblem | null;

/** Several changes as one step; what stands against one of them stands against all. */
export function asOne(name: string, all: readonly Shaped[]): Shaped {
  const edits: SimpleEdit[] = [];
  for (const shaped of all) {
    if (shaped && isProblem(shaped)) return shaped;
    if (shaped) edits.push(...editsIn(shaped));
  }
  return stepOf(name, edits);
}

/**
 * The edit that shapes notes, one by one.
 * @param name what people read
 * @param become what becomes of each note, by its index; null leaves it alone
 */
export function reshape(
  name: string,
  track: Track,
  taken: readonly Taken[],
  become: (taken: Taken, index: number) => Becomes | null,
): Edit | null {
  return atOnce(reshaping(() => name, track, eachOf(taken), become));
}

/**
 * {@link reshape} of very many notes, in pieces.
 * @param named the name that people read, for a number of notes
 */
export function* reshaping(
  named: (count: number) => string,
  track: Track,
  all: Each<Taken>,
  become: (taken: Taken, index: number) => Becomes | null,
): Pieces<Edit | null> {
  const changed = new Map<Part, Note[]>();
  let count = 0;
  yield* all((some) => {
    // Notes come part by part: their part's list is looked for once.
    let part: Part | null = null;
    let list: Note[] = [];
    for (const one of some) {
      const then = become(one, count++);
      const now = then && reshaped(one, then);
      if (!now) continue;
      if (one.part !== part) {
        part = one.part;
        list = changed.get(part) ?? [];
        changed.set(part, list);
      }
      list.push(now);
    }
  });
  const name = named(count);
  const edits = [...changed].flatMap(([part, notes]) => partEdits(name, track, part, { changed: notes }));
  return edits.length > 0 ? { kind: 'several', name, edits } : null;
}

/**
 * A note as it becomes. Under a treatment that does something a note that is moved or resized is pinned to where it was
 * put, so that no stage moves it again; a velocity is pinned only where a stage changes velocities.
 */
export function reshaped(taken: Taken, to: Becomes): Note | null {
  const { part, note } = taken;
  const start = Math.max(0, whole(to.start ?? taken.start));
  const length = Math.max(1, whole(to.length ?? taken.length));
  const velocity = Math.min(127, Math.max(1, whole(to.velocity ?? taken.velocity)));
  const pitch = to.pitch ?? note.pitch;
  const muted = (to.muted ?? note.muted === true) ? true : undefined;
  const moves = start !== whole(taken.start) || length !== whole(taken.length);
  const sounds = velocity !== taken.velocity;
  if (!moves && !sounds) {
    return pitch === note.pitch && muted === note.muted ? null : changedNote(note, { pitch, muted });
  }
  const treatment = treatmentOf(part, note);
  const { exception } = note;
  if (treatment && (moves || exception?.kind === 'pinned' ? actsOnTime(treatment) : shapesVelocities(treatment))) {
    return changedNote(note, { pitch, muted, exception: { kind: 'pinned', start, length, velocity } });
  }
  if (!moves) {
    const pin = exception?.kind === 'pinned' ? { ...exception, velocity } : exception;
    return changedNote(note, { pitch, muted, velocity, take: takeOf(note), exception: pin });
  }
  return changedNote(note, {
    pitch,
    muted,
    start,
    length,
    velocity,
    take: takeOf(note),
    order: undefined,
    exception: exception?.kind === 'pinned' ? undefined : exception,
  });
}

/** The treatment that a note is under; null for none. A pinned note's is the part's: it would move it if it was free. */
function treatmentOf(part: Part, { exception }: Note): Treatment | null {
  if (!part.on || exception?.kind === 'as-played' || exception?.kind === 'dropped') return null;
  if (exception?.kind !== 'own') return part.treatment;
  return part.sets.find((s) => s.id === exception.set)?.treatment ?? part.treatment;
}

/** Whether any stage of a treatment is on: only then a note that is put somewhere has to be held there. */
function actsOnTime({ lag, quantize, lengths, push, velocity, humanize }: Treatment): boolean {
  return lag.on || quantize.on || lengths.on || push.on || velocity.on || humanize.on;
}

/** Whether a note that is put somewhere in a part would be held there by a pin. */
export function pinsNotes(part: Part): boolean {
  return part.on && actsOnTime(part.treatment);
}

/** The edits that change what a part holds: it grows for notes that come to lie outside of it, as far as there is room. */
export function partEdits(name: string, track: Track, part: Part, change: PartChange): SimpleEdit[] {
  const { changed = [], add = [], remove = [] } = change;
  const edits: SimpleEdit[] = [];
  const sets = setsLeft(part, change);
  if (sets) edits.push({ kind: 'sets', name, part: part.id, sets });
  // Its own events first: they are told by the notes as they are.
  const ridden = rideAlong(name, track, part, change);
  if (ridden) edits.push(ridden);
  const grown = spanWith(part, add.length === 0 ? changed : [...changed, ...add]);
  if (grown) edits.push({ kind: 'part-span', name, part: part.id, ...grown });
  if (add.length === 0 && remove.length === 0) {
    if (changed.length > 0) edits.push(changeNotes(name, part, changed));
  } else {
    const gone = [...remove, ...changed.map((n) => n.id)];
    edits.push({ kind: 'notes', name, part: part.id, remove: gone, add: [...changed, ...add] });
  }
  return edits;
}

/** The own settings that a part has after a change, where they differ: those without a note go with it. */
function setsLeft(part: Part, change: PartChange): readonly OwnSet[] | null {
  const { sets = part.sets, changed = [], add = [], remove = [] } = change;
  if (sets.length === 0 && part.sets.length === 0) return null;
  const now = new Map([...changed, ...add].map((n) => [n.id, n]));
  const gone = new Set(remove);
  const used = new Set<string>();
  const use = ({ exception }: Note) => void (exception?.kind === 'own' && used.add(exception.set));
  for (const note of part.notes) if (!gone.has(note.id)) use(now.get(note.id) ?? note);
  for (const note of add) use(note);
  const left = sets.filter((s) => used.has(s.id));
  return left.length === part.sets.length && left.every((s, i) => s === part.sets[i]) ? null : left;
}
