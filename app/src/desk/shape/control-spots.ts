import { firstAt } from '@early-sparrow/core/maths';
import { eventsOf, type Control } from '@early-sparrow/core/shape';
import { eventAsTaken, type Part, type Song, type Track } from '@early-sparrow/core/song';
import { ridesOf, treatEvents } from '@early-sparrow/core/treatment';

/** The events of one control in a part, in order of where they are on the side that is shown. A row an event. Ticks. */
export interface Spots {
  readonly part: Part;
  readonly count: number;
  /** Indices in the part's events. */
  readonly index: Int32Array;
  readonly played: Float64Array;
  readonly now: Float64Array;
  /** Where each is on the side that is shown. */
  readonly own: Float64Array;
  readonly value: Float64Array;
  /** Index of the note that each belongs to, in a take that was played note by note; null for any other. */
  readonly owner: Int32Array | null;
}

/** What does not change while a treatment is dragged: which events they are. In the order of the part. */
interface Events {
  readonly index: readonly number[];
  readonly played: readonly number[];
  readonly value: readonly number[];
}

const events = new WeakMap<Part['events'], Map<string, Events>>();
const known = new WeakMap<ArrayLike<number>, Map<string, Spots>>();

/** The spots of a control in a part; the same object while neither its events nor where they happen change. */
export function spotsOf(track: Track, part: Part, song: Song, control: Control, corrected: boolean): Spots {
  const ticks = treatEvents(track.parts, song)[track.parts.indexOf(part)];
  const key = `${control.type} ${control.channel} ${control.type === 'controller' ? control.controller : ''}`;
  const side = `${key} ${corrected}`;
  const spots = known.get(ticks)?.get(side);
  if (spots?.part === part) return spots;
  const found = remember(events, part.events, key, events.get(part.events)?.get(key) ?? find(part, control));
  return remember(known, ticks, side, gather(track, part, found, ticks, corrected));
}

function remember<K extends WeakKey, T>(all: WeakMap<K, Map<string, T>>, of: K, key: string, value: T): T {
  const some = all.get(of) ?? new Map<string, T>();
  all.set(of, some.set(key, value));
  return value;
}

function find(part: Part, control: Control): Events {
  const index = eventsOf(part, control);
  return {
    index,
    played: index.map((i) => eventAsTaken(part.events[i]).tick),
    value: index.map((i) => valueOf(part.events[i])),
  };
}

function valueOf(event: Part['events'][number]): number {
  return 'value' in event ? event.value : 0;
}

function gather(track: Track, part: Part, found: Events, ticks: ArrayLike<number>, corrected: boolean): Spots {
  const places = corrected ? found.index.map((i) => ticks[i]) : found.played;
  const order = [...found.index.keys()];
  if (places.some((p, k) => k > 0 && p < places[k - 1])) order.sort((a, b) => places[a] - places[b]);
  const owners = ridesOf(part, track.setup)?.owner;
  return {
    part,
    count: order.length,
    index: Int32Array.from(order, (k) => found.index[k]),
    played: Float64Array.from(order, (k) => found.played[k]),
    now: Float64Array.from(order, (k) => ticks[found.index[k]]),
    own: Float64Array.from(order, (k) => places[k]),
    value: Float64Array.from(order, (k) => found.value[k]),
    owner: owners ? Int32Array.from(order, (k) => owners[found.index[k]]) : null,
  };
}

/** The first spot that is in view, or holds its value into it, and the first behind the view. */
export function spotsBetween({ own }: Spots, from: number, to: number): readonly [number, number] {
  return [Math.max(0, firstAt(own, from) - 1), firstAt(own, to)];
}
