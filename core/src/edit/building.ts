import type { Song } from '../song';
import { applyEdit, type Edit, type SimpleEdit } from './edit';
import { isProblem, problem, type EditProblem } from './kind';

/**
 * Grows one step out of edits of any kinds. Each is made for the song as those before it leave it, and ids are given out
 * as they are needed, so that nobody has to foresee which an edit will use.
 */
export class Building {
  private readonly edits: SimpleEdit[] = [];
  private fault: EditProblem | null = null;
  private next: number;

  constructor(private now: Song) {
    this.next = now.nextId;
  }

  /** The song with all that was added so far. */
  get song(): Song {
    return this.now;
  }

  /** A number for the id of a new note, take, part or track; never given twice. */
  id(): number {
    this.next = Math.max(this.next, this.now.nextId);
    return this.next++;
  }

  /** Adds an edit. One that does not fit ends the building: {@link done} tells why. */
  add(edit: SimpleEdit): this {
    if (this.fault) return this;
    const done = applyEdit(this.now, edit);
    if (isProblem(done)) this.fault = done;
    else {
      this.edits.push(edit);
      this.now = done.song;
    }
    return this;
  }

  /** Ends the building with a problem of its own. */
  refuse(text: string): this {
    this.fault ??= problem(text);
    return this;
  }

  /** The step under a name that people read; a problem where an edit did not fit, null where nothing was added. */
  done(name: string): Edit | EditProblem | null {
    if (this.fault) return this.fault;
    return stepOf(name, this.edits);
  }
}

/** Some edits as one step under a name; null for none. */
export function stepOf(name: string, edits: readonly SimpleEdit[]): Edit | null {
  const [only, second] = edits;
  if (only === undefined) return null;
  return second === undefined ? { ...only, name } : { kind: 'several', name, edits };
}
