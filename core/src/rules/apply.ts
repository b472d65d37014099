import { applyEdit, editsIn, isProblem, type Edit, type EditProblem, type SimpleEdit } from '../edit';
import type { IdSet } from '../maths';
import { notesWhere, takeUp, type Side } from '../shape';
import { findPart, findTrack, type Part, type Song } from '../song';
import { factsOf } from '../treatment';
import type { Around } from './conditions';
import type { Rule } from './rule';
import { actionKind, conditionKind } from './sentence';

/** Where a rule looks for notes. */
export interface RuleScope extends Omit<Around, 'song'> {
  /** Parts, by id. */
  readonly parts: readonly string[];
  /** The side on which notes are seen and changed. */
  readonly side: Side;
  /** Only these notes, by id; null for all. */
  readonly only: IdSet | null;
}

/** What a rule found and does. */
export interface Ruled {
  /** Notes that it found, by id. */
  readonly ids: readonly number[];
  /** One step; null where nothing changes. */
  readonly edit: Edit | null;
  /** Whether the notes are handed on as the selection. */
  readonly selects: boolean;
  /** Whether no note is left where the rule looked. */
  readonly empties: boolean;
}

/** The notes that a rule's conditions tell, by id, part by part in their order. */
export function findByRule(song: Song, rule: Pick<Rule, 'match' | 'when' | 'every'>, scope: RuleScope): number[] {
  return scope.parts.flatMap((id) => {
    const part = findPart(song, id)?.part;
    return part ? findInPart(song, part, rule, scope) : [];
  });
}

function findInPart(
  song: Song,
  part: Part,
  { match, when, every }: Pick<Rule, 'match' | 'when' | 'every'>,
  scope: RuleScope,
): number[] {
  const around: Around = { song, loop: scope.loop, selected: scope.selected };
  const tests = when.map((condition) => {
    const { test } = conditionKind(condition);
    const wanted = condition.not !== true;
    return (seen: Parameters<typeof test>[0]) => test(seen, condition.with as never, around) === wanted;
  });
  const ids = notesWhere(song, part, scope.side, (seen) => {
    if (scope.only && !scope.only.has(part.notes[seen.index].id)) return false;
    if (tests.length === 0) return true;
    return match === 'all' ? tests.every((test) => test(seen)) : tests.some((test) => test(seen));
  });
  return every > 1 ? oneOf(song, part, ids, every) : ids;
}

/** Of the chords that some notes belong to, in their order, every so many: of two the second. */
function oneOf(song: Song, part: Part, ids: readonly number[], every: number): number[] {
  const { chord, chords } = factsOf(part, song);
  const wanted = new Set(ids);
  /** 1 for a chord that a note belongs to; then 2 for those that are taken. */
  const marks = new Uint8Array(chords.count);
  part.notes.forEach((n, i) => {
    if (wanted.has(n.id)) marks[chord[i]] = 1;
  });
  let count = 0;
  for (let c = 0; c < marks.length; c++) if (marks[c] === 1 && ++count % every === 0) marks[c] = 2;
  return part.notes.flatMap((n, i) => (marks[chord[i]] === 2 && wanted.has(n.id) ? [n.id] : []));
}

/**
 * What a rule does to a song, as one step: each of its actions is done to what the one before has made.
 * @returns a problem where an action cannot be done; nothing is changed then
 */
export function applyRule(song: Song, rule: Rule, scope: RuleScope): Ruled | EditProblem {
  const ids = findByRule(song, rule, scope);
  const edits: SimpleEdit[] = [];
  let current = song;
  let selects = false;
  const trackIds = [...new Set(scope.parts.flatMap((id) => findPart(song, id)?.track.id ?? []))];
  for (const action of rule.then) {
    for (const trackId of trackIds) {
      const track = findTrack(current, trackId);
      if (!track) continue;
      const taken = takeUp(current, track, ids, scope.side);
      if (taken.length === 0) continue;
      const found = { song: current, track, taken, side: scope.side, seed: rule.seed };
      const done = actionKind(action).act(found, action.with as never);
      if (done === 'select') selects = true;
      if (done === 'select' || done === null) continue;
      if (isProblem(done)) return done;
      const applied = applyEdit(current, done);
      if (isProblem(applied)) return applied;
      current = applied.song;
      edits.push(...editsIn(done));
    }
  }
  const edit: Edit | null = edits.length > 0 ? { kind: 'several', name: rule.name, edits } : null;
  const count = (s: Song) => scope.parts.reduce((sum, id) => sum + (findPart(s, id)?.part.notes.length ?? 0), 0);
  return { ids, edit, selects, empties: edit !== null && count(current) === 0 };
}
