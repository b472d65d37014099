import { readSong, type PartEvent, type Song1, type TrackEvent } from '../song';
import { readEdit, type Edit, type SimpleEdit } from './edit';
import { carryOut, redo, startHistory, undo, type History } from './history';
import { isProblem } from './kind';

/** How version 1 replaced events of a track, by their index in a list that held all of them. */
interface Events1 {
  readonly kind: 'events';
  readonly name: string;
  readonly track: string;
  readonly at: readonly number[];
  readonly to: readonly TrackEvent[];
}
type Edit1 = Events1 | Exclude<SimpleEdit, { kind: 'events' }>;
type Step1 =
  | {
      readonly type: 'do';
      readonly edit: Edit1 | { readonly kind: 'several'; readonly name: string; readonly edits: readonly Edit1[] };
    }
  | { readonly type: 'undo' | 'redo' };

/**
 * Opens a song that version 1 kept, with its journal: what was done then is done again in terms of today. As version 1
 * did, it passes over a step that does not fit.
 * @param song a song of version 1 as it was stored
 * @throws SongFormatError where the song itself cannot be read
 */
export function replayVersion1(song: unknown, journal: readonly unknown[]): History {
  let history = startHistory(readSong(song));
  const places = new EventPlaces(song as Song1);
  for (const step of journal as readonly Step1[]) {
    if (step.type !== 'do') {
      history = step.type === 'undo' ? undo(history) : redo(history);
      continue;
    }
    const edit = readEdit(places.today(step.edit, history));
    const after = isProblem(edit) ? edit : carryOut(history, { act: 'do', edit });
    if (!isProblem(after)) history = after;
  }
  return history;
}

/** An event is known by the place that it had in its file, wherever it was put since. */
const originOf = (event: TrackEvent) => event.take?.order ?? event.order;

const TRACK_NAME = 0x03;

/** Where the events of version 1's tracks are kept today. */
class EventPlaces {
  /** For each track, the origins of its events as version 1 listed them, and whether one of them is a name. */
  private readonly lists = new Map<string, { origins: (number | undefined)[]; named: boolean }>();

  constructor(song: Song1) {
    for (const { id, events } of song.tracks) {
      const named = events.some((e) => e.type === 'meta' && e.meta === TRACK_NAME);
      this.lists.set(id, { origins: events.map(originOf), named });
    }
  }

  today(edit: Extract<Step1, { type: 'do' }>['edit'], history: History): Edit {
    if (edit.kind !== 'several') return this.one(edit, history);
    return { ...edit, edits: edit.edits.map((e) => this.one(e, history)) };
  }

  private one(edit: Edit1, history: History): SimpleEdit {
    if (edit.kind === 'track-name') this.rename(edit.track);
    return edit.kind === 'events' ? this.events(edit, history) : edit;
  }

  /** Version 1 put an event for a new name before all others where there was none, and left it there for good. */
  private rename(trackId: string): void {
    const list = this.lists.get(trackId);
    if (!list || list.named) return;
    list.named = true;
    list.origins.unshift(undefined);
  }

  /** Only Keep, and going back to the take, replaced events: those that belong to a part today. */
  private events({ name, track: trackId, at, to }: Events1, { song }: History): SimpleEdit {
    const part = song.tracks.find((t) => t.id === trackId)?.parts[0];
    const origins = this.lists.get(trackId)?.origins ?? [];
    const changed = new Map(at.map((i, k) => [origins[i], to[k]]));
    const now = part?.events ?? [];
    const then = now.map((e) => (changed.get(originOf(e)) ?? e) as PartEvent).sort((a, b) => a.tick - b.tick);
    const add = then.map((event, i) => ({ at: i, event }));
    return { kind: 'events', name, part: part?.id ?? '', remove: now.map((_, i) => i), add };
  }
}
