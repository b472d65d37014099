import { NO_SETUP, perNoteOf, remembered, ridesOnMember, type PerNote, type Played, type Track } from '../song';

/** What rides with the notes of a part that was played note by note: it stays the same while its treatment is dragged. */
export interface Rides {
  /** Index of the note that each event of the part is meant for; below 0 for none. */
  readonly owner: Int32Array;
  /** Where each event is. Ticks. */
  readonly tick: Float64Array;
  /** Indices of the events that ride with no note: those of other kinds and channels, and what a person put there. */
  readonly others: readonly number[];
  /** Where the events go when the notes start elsewhere, in whole ticks; others stay. */
  move(starts: Float64Array): Float64Array;
}

/** An event that rides with no note. */
const NONE_RIDES = -1;
/** An event that is meant for one note, on a channel that has none. */
const ALONE = -2;

/**
 * @param setup what its track sends before its first note
 * @returns null for a part that was not played note by note, or has nothing that rides
 */
export function ridesOf(part: Played, setup: Track['setup'] = NO_SETUP): Rides | null {
  return part.events.length === 0 ? null : rides(part, setup);
}

const rides = remembered((part, setup) => {
  const own = perNoteOf(part, setup);
  return own && gatherRides(part, own);
});

function gatherRides({ notes, events }: Played, { members }: PerNote): Rides {
  const from = new Float64Array(notes.length);
  const begin = new Float64Array(notes.length);
  const next = new Int32Array(notes.length).fill(-1);
  const first = new Int32Array(16).fill(-1);
  const last = new Int32Array(16).fill(-1);
  const before = new Float64Array(16).fill(-Infinity);
  notes.forEach(({ channel, start, length, exception }, i) => {
    from[i] = start;
    if (exception?.kind === 'dropped') return;
    // Between two notes of a channel what lies nearer to the second is meant for that: its bend and pressure are set
    // before it begins, and what the first one left is said as it is let go.
    begin[i] = Math.min(start, (start + before[channel]) / 2);
    before[channel] = Math.max(before[channel], start + length);
    if (last[channel] < 0) first[channel] = i;
    else next[last[channel]] = i;
    last[channel] = i;
  });
  const at = first.slice();
  const owner = new Int32Array(events.length);
  const tick = new Float64Array(events.length);
  const others: number[] = [];
  events.forEach((event, i) => {
    const { channel } = event;
    tick[i] = event.tick;
    const riding = members.has(channel) && ridesOnMember(event);
    if (!riding || event.fixed) others.push(i);
    if (!riding) owner[i] = NONE_RIDES;
    else if (at[channel] < 0) owner[i] = ALONE;
    else {
      while (next[at[channel]] >= 0 && begin[next[at[channel]]] <= event.tick) at[channel] = next[at[channel]];
      owner[i] = at[channel];
    }
  });
  return {
    owner,
    tick,
    others,
    move(starts) {
      const ticks = tick.slice();
      // What a note takes along, and where that ends at the latest: what rings on behind it ends where the next one begins.
      const by = new Float64Array(notes.length);
      const latest = new Float64Array(notes.length).fill(Infinity);
      for (let own = 0; own < notes.length; own++) {
        const after = next[own];
        by[own] = starts[own] - from[own];
        if (after < 0) continue;
        const limit = Math.max(0, begin[after] + starts[after] - from[after]);
        latest[own] = Math.max(limit, Math.min(starts[own], starts[after]));
      }
      for (let i = 0; i < ticks.length; i++) {
        const own = owner[i];
        if (own >= 0) ticks[i] = Math.round(Math.min(Math.max(0, tick[i] + by[own]), latest[own]));
      }
      return ticks;
    },
  };
}
