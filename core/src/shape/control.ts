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
  return events.flatMap((e, i) => (isOf(e, control) ? [i] : []));
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

/**
 * Moves an event in time, between its neighbours of the same control, and gives it another value.
 * @param index of the event in the part
 */
export function moveEvent(part: Part, index: number, { tick, value }: Point): Shaped {
  const event = part.events.at(index);
  if (!event || event.type === 'key-pressure') return null;
  const control = controlOf(event);
  const own = eventsOf(part, control);
  const at = own.indexOf(index);
  const least = at > 0 ? part.events[own[at - 1]].tick + 1 : 0;
  const most = at + 1 < own.length ? part.events[own[at + 1]].tick - 1 : Infinity;
  const to = Math.max(least, Math.min(most, Math.round(tick)));
  const { order: _order, ...rest } = event;
  const take = event.take ?? { tick: event.tick, ...(event.order === undefined ? {} : { order: event.order }) };
  const moved = {
    ...rest,
    tick: to,
    value: within(control, value),
    ...(to === event.tick ? {} : { take }),
    ...(pinsNotes(part) ? { fixed: true as const } : {}),
  } as PartEvent;
  return change(
    part,
    'Move',
    part.events.map((e, i) => (i === index ? moved : e)),
  );
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

/** Takes away the points of a control that lie on the line between their neighbours, give or take some steps. */
export function thin(part: Part, control: Control, steps: number): Shaped {
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
  return gone.size > 0 ? eraseEvents(part, [...gone]) : null;
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
