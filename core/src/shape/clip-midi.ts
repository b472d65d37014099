import type { EditProblem } from '../edit';
import { asPlayed } from '../performance';
import { readSmf, SmfError, writeSmf } from '../smf';
import { byPlace, meterOf, newPart, newSong, newTrack, type Note } from '../song';
import { MOST_NOTES } from './add';
import { NO_NOTES, tooManyNotes, type Clip } from './clipboard';
import { problem } from './problem';

/** Notes on the clipboard as a standard MIDI file, for other programs; the first one starts it. */
export function clipToMidi({ ppq, notes }: Clip): Uint8Array {
  const plain = notes.map(({ start, length, pitch, velocity, channel, release }, id): Note => {
    return { id, start, length, pitch, velocity, channel, release };
  });
  const end = notes.reduce((last, n) => Math.max(last, n.start + n.length), 1);
  const events = notes
    .flatMap((n) => (n.ridden ?? []).map(({ at, event }) => ({ ...event, tick: Math.max(0, n.start + at) })))
    .sort((a, b) => a.tick - b.tick);
  const part = newPart('p', 'Notes', 0, end, { notes: plain.sort(byPlace), events });
  const song = { ...newSong('Notes', ppq), tracks: [newTrack('t', 'Notes', { parts: [part] })], nextId: notes.length };
  return writeSmf(song, asPlayed(song));
}

/** The notes of a standard MIDI file that another program has put on the clipboard, of all its tracks. */
export function clipOfMidi(bytes: Uint8Array): Clip | EditProblem {
  try {
    const { song } = readSmf(bytes, 'Notes');
    const notes = song.tracks.flatMap((t) => t.parts.flatMap((p) => p.notes)).sort(byPlace);
    const [first] = notes;
    if (notes.length === 0) return problem(NO_NOTES);
    if (notes.length > MOST_NOTES) return problem(tooManyNotes());
    return {
      kind: 'early-sparrow-notes',
      version: 1,
      ppq: song.ppq,
      inBar: Math.round(first.start - meterOf(song).barStartAt(first.start)),
      notes: notes.map(({ start, length, pitch, velocity, channel, release }) => ({
        start: start - first.start,
        length: Math.max(1, length),
        pitch,
        velocity,
        channel,
        release,
      })),
    };
  } catch (error) {
    if (!(error instanceof SmfError)) throw error;
    return problem(NO_NOTES);
  }
}
