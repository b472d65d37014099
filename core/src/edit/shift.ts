import { contentsOf, FIRST_NOTE_EARLY, shiftAudio, withContents, type Note, type Part, type PartEvent } from '../song';

/** A part that lies elsewhere in time, with everything in it: takes and pinned places too. Ticks. */
export function shiftPart(part: Part, by: number): Part {
  return {
    ...withContents(part, ({ notes, events }) => ({
      notes: notes.map((n) => shiftNote(n, by)),
      events: events.map((e) => shiftEvent(e, by)),
    })),
    ...(part.audio ? { audio: shiftAudio(part.audio, by) } : {}),
    start: part.start + by,
    end: part.end + by,
  };
}

function shiftNote(note: Note, by: number): Note {
  const { take, exception } = note;
  return {
    ...note,
    start: note.start + by,
    ...(take ? { take: { ...take, start: take.start + by } } : {}),
    ...(exception?.kind === 'pinned' ? { exception: { ...exception, start: exception.start + by } } : {}),
  };
}

function shiftEvent(event: PartEvent, by: number): PartEvent {
  const { take } = event;
  return { ...event, tick: event.tick + by, ...(take ? { take: { ...take, tick: take.tick + by } } : {}) };
}

/** The earliest place of anything in a part: it cannot be moved further back than this. */
export function earliest(part: Part): number {
  let first = part.start;
  for (const { notes, events } of contentsOf(part)) {
    for (const { start, take, exception } of notes) {
      first = Math.min(first, start, take?.start ?? first, exception?.kind === 'pinned' ? exception.start : first);
    }
    for (const { tick, take } of events) first = Math.min(first, tick, take?.tick ?? first);
  }
  return first;
}

/**
 * What of a part comes to the song's start when it goes there: its beginning, and its earliest note where that lies
 * further before it than a first note that was early.
 */
export function leading(part: Part, ppq: number): number {
  const first = earliest(part);
  return first < part.start - FIRST_NOTE_EARLY * ppq ? first : part.start;
}
