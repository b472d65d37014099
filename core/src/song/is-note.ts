import { atOnce, inPieces, type Pieces } from '../maths';

/** Lists in which each is a note. No list of notes is changed in place: one that has passed need not be looked at again. */
const passed = new WeakSet<readonly unknown[]>();

/** {@link areNotes} of very many, in pieces: the list is known afterwards. */
export function* areNotesPieces(list: readonly unknown[]): Pieces<boolean> {
  if (passed.has(list)) return true;
  let all = true;
  yield* inPieces(list.length, (from, to) => {
    for (let i = from; all && i < to; i++) all = isNote(list[i]);
  });
  if (all) passed.add(list);
  return all;
}

/** Whether all of a list are plainly notes, as {@link isNote} tells. */
export function areNotes(list: readonly unknown[]): boolean {
  return atOnce(areNotesPieces(list));
}

/** Whether a value is plainly a note, by the rules of `NoteSchema`. It may say no to a note, never yes to anything else. */
export function isNote(value: unknown): boolean {
  if (typeof value !== 'object' || value === null) return false;
  const note = value as Record<string, unknown>;
  return (
    whole(note['id'], 0, Number.MAX_SAFE_INTEGER) &&
    isPlace(note) &&
    whole(note['pitch'], 0, 127) &&
    whole(note['channel'], 0, 15) &&
    (note['release'] === null || whole(note['release'], 0, 127)) &&
    (note['take'] === undefined || isTake(note['take'])) &&
    (note['exception'] === undefined || isException(note['exception'])) &&
    isFlag(note['muted']) &&
    hasOrigin(note)
  );
}

function isPlace(at: Record<string, unknown>): boolean {
  return (
    whole(at['start'], 0, Number.MAX_SAFE_INTEGER) &&
    whole(at['length'], 0, Number.MAX_SAFE_INTEGER) &&
    whole(at['velocity'], 1, 127)
  );
}

function isTake(value: unknown): boolean {
  return isObject(value) && isPlace(value) && hasOrigin(value);
}

function isException(value: unknown): boolean {
  if (!isObject(value)) return false;
  switch (value['kind']) {
    case 'as-played':
    case 'dropped':
      return true;
    case 'own':
      return typeof value['set'] === 'string';
    case 'pinned':
      return isPlace(value);
    default:
      return false;
  }
}

/** The marks that a note brings from its file. */
function hasOrigin(value: Record<string, unknown>): boolean {
  const order = value['order'];
  const ordered =
    order === undefined || (Array.isArray(order) && order.length === 2 && isOrder(order[0]) && isOrder(order[1]));
  return ordered && isFlag(value['unended']);
}

function isOrder(value: unknown): boolean {
  return value === null || (typeof value === 'number' && Number.isFinite(value));
}

function isFlag(value: unknown): boolean {
  return value === undefined || value === true;
}

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null;
}

function whole(value: unknown, low: number, high: number): boolean {
  return typeof value === 'number' && Number.isInteger(value) && value >= low && value <= high;
}
