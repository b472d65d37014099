declare module 'midi-file' {
  /** An event as `midi-file` reads and writes it; which fields it has depends on `type`. */
  export interface MidiEvent {
    deltaTime: number;
    type: string;
    meta?: boolean;
    running?: boolean;
    byte9?: boolean;
    channel?: number;
    noteNumber?: number;
    velocity?: number;
    controllerType?: number;
    value?: number;
    amount?: number;
    programNumber?: number;
    metatypeByte?: number;
    data?: ArrayLike<number>;
    microsecondsPerBeat?: number;
    numerator?: number;
    denominator?: number;
    metronome?: number;
    thirtyseconds?: number;
  }
  export interface MidiHeader {
    format: number;
    numTracks: number;
    ticksPerBeat?: number;
  }
  export interface MidiData {
    header: MidiHeader;
    tracks: MidiEvent[][];
  }
  export function parseMidi(bytes: ArrayLike<number>): MidiData;
  export function writeMidi(data: MidiData, options?: { running?: boolean; useByte9ForNoteOff?: boolean }): number[];
}
