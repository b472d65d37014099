import { eventsEdit, type SimpleEdit } from '../edit';
import { heldAt, letGo, sameControl, type Part, type PartEvent } from '../song';
import type { Ticks } from '../time';
import { pinsNotes, type Shaped } from './reshape';

/** What events of a part are of one kind: a controller, the bend or the pressure of a channel. */
export type Control =
  | { readonly type: 'controller'; readonly controller: number; readonly channel: number }
  | { readonly type: 'bend'; readonly channel: number }
  | { readonly type: 'pressure'; readonly channel: number };

/** A value at a place. Ticks. */
export interface Point {
  readonly tick: Ticks;
  /** 0 to 127; of a bend −8192 to 8191. */
  readonly value: number;
}

/** Least and greatest value of a control. */
export function rangeOf({ type }: Control): readonly [number, number] {
  return type === 'bend' ? [-8192, 8191] : [0, 127];
}

/** Whether an event is of a control. */
export function isOf(event: PartEvent, control: Control): boolean {
  return sameControl(event, eventOf(control, { tick: 0, value: 0 }, false));
}

/** Indices of a control's events in a part, in order of time. */
export function eventsOf({ events }: Pick<Part, 'events'>, control: Control): number[] {
  const one = eventOf(control, { tick: 0, value: 0 }, false);
  const indices: number[] = [];
  for (let i = 0; i < events.length; i++) if (sameControl(events[i], one)) indices.push(i);
  return indices;
}

/** The value that a control has at a tick, before what happens there; 0 where nothing was said. */
export function valueAt(part: Part, control: Control, tick: Ticks): number {
  let value = 0;
  for (const e of part.events) {
    if (e.tick >= tick) break;
    if (isOf(e, control) && 'value' in e) value = e.value;
  }
  return value;
}

/**
 * Draws a control over a stretch: what was in it goes, the points come in, and behind it all is as before.
 * @param from first tick @param to the first tick behind it
 */
export function drawControl(
  part: Part,
  control: Control,
  { from, to }: { readonly from: Ticks; readonly to: Ticks },
  points: readonly Point[],
): Shaped {
  const begin = Math.max(0, Math.round(from));
  const end = Math.max(begin + 1, Math.round(to));
  const inside = (e: PartEvent) => isOf(e, control) && e.tick >= begin && e.tick < end;
  const fixed = pinsNotes(part);
  const put = points
    .map((p) => ({ tick: Math.round(p.tick), value: within(control, p.value) }))
    .filter((p) => p.tick >= begin && p.tick < end);
  const after = part.events.filter((e) => !inside(e));
  const next = after.some((e) => isOf(e, control) && e.tick === end);
  // Behind the stretch the control has the value that it had there.
  const was = valueAt(part, control, end);
  const last = put.at(-1)?.value ?? valueAt(part, control, begin);
  const back = !next && last !== was ? [{ tick: end, value: was }] : [];
  const fresh = [...put, ...back].map((p) => eventOf(control, p, fixed));
  return change(part, 'Draw', [...after, ...fresh]);
}

/** Adds an event, in place of one of its control that is there. */
export function addEvent(part: Part, control: Control, point: Point): Shaped {
  const tick = Math.max(0, Math.round(point.tick));
  const others = part.events.filter((e) => e.tick !== tick || !isOf(e, control));
  const value = within(control, point.value);
  return change(part, 'Draw', [...others, eventOf(control, { tick, value }, pinsNotes(part))]);
}

/** What becomes of events that are moved: the edit, and the events as they are then. */
export interface MovedEvents {
  readonly shaped: Shaped;
  readonly events: readonly PartEvent[];
}

/**
 * Moves events of one control in time and value as one: none passes an event that stays, and where one reaches the least
 * or greatest value all stop.
 * @param places where each is now, by its index in the part, in ticks: under a treatment not where it was played
 */
export function moveEvents(
  part: Part,
  places: ReadonlyMap<number, Ticks>,
  { ticks, rise }: { readonly ticks: Ticks; readonly rise: number },
): MovedEvents {
  const first = part.events.find((_, i) => places.has(i));
  if (!first || first.type === 'key-pressure') return { shaped: null, events: [] };
  const control = controlOf(first);
  const [least, most] = rangeOf(control);
  const own = eventsOf(part, control);
  let [earliest, latest] = [-Infinity, Infinity];
  let [lowest, highest] = [-Infinity, Infinity];
  own.forEach((index, k) => {
    const at = places.get(index);
    if (at === undefined) return;
    const event = part.events[index];
    const value = 'value' in event ? event.value : 0;
    lowest = Math.max(lowest, least - value);
    highest = Math.min(highest, most - value);
    // Of events at one tick a group may be a part: it then has no room on that side, and must not be thrown over.
    const before = k > 0 ? own[k - 1] : null;
    if (before === null) earliest = Math.max(earliest, -at);
    else if (!places.has(before)) earliest = Math.max(earliest, Math.min(0, part.events[before].tick + 1 - at));
    const next = k + 1 < own.length ? own[k + 1] : null;
    if (next !== null && !places.has(next)) latest = Math.min(latest, Math.max(0, part.events[next].tick - 1 - at));
  });
  const by = Math.max(earliest, Math.min(latest, Math.round(ticks)));
  const up = Math.max(lowest, Math.min(highest, Math.round(rise)));
  if (by === 0 && up === 0) return { shaped: null, events: [] };
  const fixed = pinsNotes(part) ? { fixed: true as const } : {};
  const events: PartEvent[] = [];
  const after = part.events.map((event, i) => {
    const at = places.get(i);
    if (at === undefined || !isOf(event, control)) return event;
    const { order: _order, ...rest } = event;
    const take = event.take ?? { tick: event.tick, ...(event.order === undefined ? {} : { order: event.order }) };
    const value = ('value' in event ? event.value : 0) + up;
    const tick = Math.round(at + by);
    const moved = { ...rest, tick, value, ...(tick === event.tick ? {} : { take }), ...fixed } as PartEvent;
    events.push(moved);
    return moved;
  });
  return { shaped: change(part, 'Move', after), events };
}

/** Takes events away. A pedal or bend that would stay held for it is let go where the part ends. */
export function eraseEvents(part: Part, indices: readonly number[]): Shaped {
  const gone = new Set(indices);
  return change(
    part,
    'Erase',
    part.events.filter((_, i) => !gone.has(i)),
  );
}

/**
 * Takes away the points of a control that lie on the line between their neighbours, give or take some steps.
 * @param only of these, by indices in the part; null for any
 */
export function thin(part: Part, control: Control, steps: number, only: ReadonlySet<number> | null = null): Shaped {
  const own = eventsOf(part, control);
  const gone = new Set<number>();
  const point = (i: number): Point => {
    const e = part.events[own[i]];
    return { tick: e.tick, value: 'value' in e ? e.value : 0 };
  };
  // Douglas and Peucker 1973, Cartographica 10:2: the furthest point from the line stays, and divides it.
  const stack: [number, number][] = [[0, own.length - 1]];
  for (let pair = stack.pop(); pair; pair = stack.pop()) {
    const [a, b] = pair;
    if (b - a < 2) continue;
    const [first, last] = [point(a), point(b)];
    let furthest = a;
    let most = -1;
    for (let i = a + 1; i < b; i++) {
      const { tick, value } = point(i);
      const share = (tick - first.tick) / Math.max(1, last.tick - first.tick);
      const away = Math.abs(value - (first.value + (last.value - first.value) * share));
      if (away > most) [furthest, most] = [i, away];
    }
    if (most > steps) stack.push([a, furthest], [furthest, b]);
    else for (let i = a + 1; i < b; i++) gone.add(own[i]);
  }
  const going = [...gone].filter((i) => only === null || only.has(i));
  return going.length > 0 ? eraseEvents(part, going) : null;
}

/** The control that an event is of. */
export function controlOf(event: Exclude<PartEvent, { type: 'key-pressure' }>): Control {
  return event.type === 'controller'
    ? { type: 'controller', controller: event.controller, channel: event.channel }
    : { type: event.type, channel: event.channel };
}

function within(control: Control, value: number): number {
  const [least, most] = rangeOf(control);
  return Math.max(least, Math.min(most, Math.round(value)));
}

function eventOf(control: Control, { tick, value }: Point, fixed: boolean): PartEvent {
  return { ...control, tick, value, ...(fixed ? { fixed: true as const } : {}) } as PartEvent;
}

/** The edit that gives a part other events; what it would leave held is let go. */
function change(part: Part, verb: string, events: readonly PartEvent[]): Shaped {
  const sorted = [...events].sort((a, b) => a.tick - b.tick);
  const before = heldAt(part.events);
  const end = Math.max(part.end, sorted.at(-1)?.tick ?? 0);
  const hanging = heldAt(sorted).filter((h) => !before.some((b) => sameControl(b, h)));
  const all = [...sorted, ...hanging.map((h) => letGo(h, end))];
  const name = `${verb} controllers of ${part.name}`;
  const edit: SimpleEdit | null = eventsEdit(name, part, all);
  return edit;
}
