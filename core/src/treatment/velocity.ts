import type { Grid, SongTime } from '../grid';
import type { GrooveUse, Velocity } from '../song';
import { grooveVelocities } from '../groove';
import type { Assignment } from './assign';
import type { NoteColumns } from './columns';

/** A place this close to a beat is on it, in quarter notes (a 1/32 note). */
const ON_BEAT = 1 / 8;

/** Velocities after the velocity stage, not yet rounded; `velocity` off leaves only the groove's part. */
export function shapeVelocities(
  columns: NoteColumns,
  chords: Assignment | null,
  starts: Float64Array,
  settings: Velocity,
  groove: GrooveUse | null,
  shift: Grid['shift'],
  time: SongTime,
): Float32Array {
  const mean = meanOf(columns.velocity);
  const { fixed, scale, level } = settings;
  const low = Math.min(settings.low, settings.high);
  const high = Math.max(settings.low, settings.high);
  const within = (velocity: number) => Math.min(high, Math.max(low, velocity));
  const scaled = (velocity: number) => (fixed ?? mean + (velocity - mean) * scale) + level;
  const byGroove = groove && groove.velocity > 0 && chords;
  if (!byGroove && settings.on && settings.accents.length === 0) {
    // There are but 128 velocities: each is worked out once.
    const become = Float32Array.from({ length: 128 }, (_, velocity) => within(scaled(velocity)));
    const out = new Float32Array(columns.count);
    for (let i = 0; i < out.length; i++) out[i] = become[columns.velocity[i]];
    return out;
  }
  const out = new Float32Array(columns.velocity);
  if (byGroove) {
    const velocityAt = grooveVelocities(groove, shift, time);
    for (let c = 0; c < chords.count; c++) {
      const wanted = mean * velocityAt(chords.line[c]);
      for (let i = chords.first[c]; i < chords.first[c + 1]; i++) out[i] += groove.velocity * (wanted - out[i]);
    }
  }
  if (!settings.on) return out;
  for (let i = 0; i < out.length; i++) out[i] = scaled(out[i]);
  if (settings.accents.length > 0) addAccents(out, chords, starts, settings, time);
  for (let i = 0; i < out.length; i++) out[i] = within(out[i]);
  return out;
}

/** Accents count by a chord's line where it has one, else by where its notes are. */
function addAccents(
  out: Float32Array,
  chords: Assignment | null,
  starts: Float64Array,
  settings: Velocity,
  time: SongTime,
): void {
  const { meter } = time;
  const add = (place: number, from: number, to: number) => {
    const piece = meter.pieceAt(place);
    const near = ON_BEAT * meter.ppq;
    for (const accent of settings.accents) {
      if (accent.beat - 1 >= piece.numerator) continue;
      const beatAt = (accent.beat - 1) * piece.beatTicks;
      const inBar = (place - piece.tick) % piece.barTicks;
      const away = Math.abs(inBar - beatAt);
      if (Math.min(away, piece.barTicks - away) > near) continue;
      for (let i = from; i < to; i++) out[i] += accent.add;
    }
  };
  if (chords) for (let c = 0; c < chords.count; c++) add(chords.line[c], chords.first[c], chords.first[c + 1]);
  else for (let i = 0; i < out.length; i++) add(starts[i], i, i + 1);
}

function meanOf(values: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < values.length; i++) sum += values[i];
  return values.length > 0 ? sum / values.length : 0;
}
