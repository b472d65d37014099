import { readText, type TrackEvent } from '../song';

export const TRACK_NAME = 0x03;

/** The event that carries a track's name; undefined where none says anything. */
export function nameEvent(events: readonly TrackEvent[]): Extract<TrackEvent, { type: 'meta' }> | undefined {
  for (const event of events) {
    if (event.type === 'meta' && event.meta === TRACK_NAME && nameIn(event.data)) return event;
  }
  return undefined;
}

/** What a track is called: by its file, else by its channel in a file of one track, else by its number. */
export function trackTitle(events: readonly TrackEvent[], channel: number | undefined, index: number): string {
  if (channel !== undefined) return `Channel ${channel + 1}`;
  const event = nameEvent(events);
  return event ? nameIn(event.data) : `Track ${index + 1}`;
}

function nameIn(data: Uint8Array): string {
  return readText(data).replace(/\0/g, '').trim().slice(0, 200);
}
