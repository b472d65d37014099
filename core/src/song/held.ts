import { isPedal, type PartEvent } from './event';

/** The pedals that are down and the bends that are not in the middle after some events. */
export function heldAt(events: readonly PartEvent[]): PartEvent[] {
  const last = new Map<string, PartEvent>();
  for (const event of events) if (event.type === 'bend' || isPedal(event)) last.set(controlOf(event), event);
  return [...last.values()].filter((e) => 'value' in e && e.value !== 0);
}

/** Whether two events are of one controller, or of one channel's bend or pressure. */
export function sameControl(a: PartEvent, b: PartEvent): boolean {
  return controlOf(a) === controlOf(b);
}

function controlOf(event: PartEvent): string {
  return `${event.type}.${event.channel}.${event.type === 'controller' ? event.controller : ''}`;
}

/** What is held, set again at a tick. */
export function setAgain(event: PartEvent, tick: number): PartEvent {
  const { take: _take, order: _order, fixed: _fixed, ...rest } = event;
  return { ...rest, tick } as PartEvent;
}

/** What is held, let go at a tick. */
export function letGo(event: PartEvent, tick: number): PartEvent {
  return { ...setAgain(event, tick), value: 0 } as PartEvent;
}
