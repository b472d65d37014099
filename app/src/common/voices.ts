import type { SimpleEdit } from '@early-sparrow/core/edit';
import { familyOf, PROGRAM_NAMES, voiceKind } from '@early-sparrow/core/sound';
import type { Track, TrackSound } from '@early-sparrow/core/song';
import type { Option } from './option';

const AS_FILE = 'file';
const PLAIN = 'plain';
const DRUMS = 'drums';

/** The voices that a track can have. */
export const VOICES: readonly Option[] = [
  { value: AS_FILE, text: 'As its file says' },
  { value: PLAIN, text: 'A plain short tone' },
  { value: DRUMS, text: 'Drum kit' },
  ...PROGRAM_NAMES.map((text, value) => ({ value: `${value}`, text })),
];

/** The voice that a track has, among {@link VOICES}. */
export function voiceValue(track: Track | null): string {
  if (!track || (track.voice === null && track.program === null)) return AS_FILE;
  if (track.voice === 'plain' || track.voice === 'drums') return track.voice;
  return `${track.program ?? 0}`;
}

export function voiceOf(value: string): Pick<TrackSound, 'voice' | 'program'> {
  if (value === AS_FILE) return { voice: null, program: null };
  if (value === PLAIN || value === DRUMS) return { voice: value, program: null };
  return { voice: familyOf(+value), program: +value };
}

/** The edit that changes how a track sounds. */
export function soundEdit(track: Track, name: string, change: Partial<TrackSound>): SimpleEdit {
  const { voice, program, channel, transpose, delay, output } = track;
  const to = { voice, program, channel, transpose, delay, output, ...change };
  return { kind: 'track-sound', name, track: track.id, to };
}

/** What a track's name says nothing of, such as “Track 3”: its instrument in words; null for a name that speaks. */
export function instrumentOf(track: Track): string | null {
  if (!/^\s*((midi\s*)?(track|channel|recording|part|ch\.?|untitled|inst(rument)?)?\s*[\d#.-]*)\s*$/i.test(track.name))
    return null;
  if (voiceKind(track) === 'drums') return 'Drum kit';
  if (track.voice === 'plain') return 'Plain tone';
  const event = track.setup.find((e) => e.type === 'program');
  const program = track.program ?? (event?.type === 'program' ? event.program : null);
  return program === null ? null : PROGRAM_NAMES[program];
}
