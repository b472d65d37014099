import type { ScoreTrack } from './score';

/** Controllers 0 to 127, then bend and pressure: what a channel remembers. */
const BEND = 128;
const PRESSURE = 129;
const KINDS = 130;
const CHANNELS = 16;
/** Middle of the pitch wheel. */
const MIDDLE = 8192;
const UNKNOWN = -1;

/** A message that brings a channel to a state: index of the slot, status, and two data bytes. */
export type ControlMessage = readonly [slot: number, status: number, first: number, second: number];

/** Where the controllers, bends and pressures of a track's channels are. */
export class ControlState {
  private readonly values = new Int16Array(CHANNELS * KINDS).fill(UNKNOWN);

  /** Takes in a message. @param channel of the score, 0 to 15 */
  hear(channel: number, status: number, first: number, second: number): void {
    const at = channel * KINDS;
    if (status === 0xb0) this.values[at + first] = second;
    else if (status === 0xe0) this.values[at + BEND] = first | (second << 7);
    else if (status === 0xd0) this.values[at + PRESSURE] = first;
  }

  clear(): void {
    this.values.fill(UNKNOWN);
  }

  /** The state after the first events of a score. */
  static of({ slots, events }: ScoreTrack, count: number): ControlState {
    const state = new ControlState();
    for (let i = 0; i < count; i++) {
      state.hear(slots[events.slot[i]].channel, events.status[i], events.first[i], events.second[i]);
    }
    return state;
  }

  /** What brings channels from here to another state; what that does not say goes back to where it rests. */
  to(other: ControlState, { slots }: ScoreTrack): ControlMessage[] {
    const messages: ControlMessage[] = [];
    slots.forEach(({ channel }, slot) => {
      for (let kind = 0; kind < KINDS; kind++) {
        const at = channel * KINDS + kind;
        const now = this.values[at];
        if (now === UNKNOWN && other.values[at] === UNKNOWN) continue;
        const wanted = other.values[at] === UNKNOWN ? restOf(kind) : other.values[at];
        if (wanted !== UNKNOWN && wanted !== now) messages.push([slot, ...bytesOf(kind, wanted)]);
      }
    });
    return messages;
  }

  /** What lets every pedal go that is down. */
  pedalsUp({ slots }: ScoreTrack): ControlMessage[] {
    return slots.flatMap(({ channel }, slot) =>
      PEDALS.flatMap((pedal): ControlMessage[] =>
        this.values[channel * KINDS + pedal] > 0 ? [[slot, 0xb0, pedal, 0]] : [],
      ),
    );
  }
}

/** Damper to hold 2 (MIDI 1.0, controllers 64 to 69). */
const PEDALS = [64, 65, 66, 67, 68, 69];

/** Where a controller rests that nobody moved (MIDI 1.0, what controller 121 does); unknown for what that leaves alone. */
function restOf(kind: number): number {
  if (kind === BEND) return MIDDLE;
  if (kind === PRESSURE || kind === 1 || PEDALS.includes(kind)) return 0;
  return kind === 11 ? 127 : UNKNOWN;
}

function bytesOf(kind: number, value: number): [number, number, number] {
  if (kind === BEND) return [0xe0, value & 0x7f, value >> 7];
  return kind === PRESSURE ? [0xd0, value, 0] : [0xb0, kind, value];
}
