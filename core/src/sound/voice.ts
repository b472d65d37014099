import type { Track, VoiceKind } from '../song';

/** MIDI channel 10 is percussion (General MIDI System Level 1). */
export const PERCUSSION_CHANNEL = 9;

/** Families of eight programs (General MIDI System Level 1 sound set). */
const FAMILIES: readonly VoiceKind[] = [
  'keys', // piano
  'mallets', // chromatic percussion
  'reed', // organ
  'plucked', // guitar
  'bass',
  'strings',
  'strings', // ensemble
  'reed', // brass
  'reed',
  'reed', // pipe
  'keys', // synth lead
  'strings', // synth pad
  'strings', // synth effects
  'plucked', // ethnic
  'mallets', // percussive
  'strings', // sound effects
];

/** The family of a program, 0 to 127. */
export function familyOf(program: number): VoiceKind {
  return FAMILIES[program >> 3];
}

/** The program that stands for a family (General MIDI System Level 1 sound set, counted from 0). */
export const FAMILY_PROGRAMS: Readonly<Record<VoiceKind, number>> = {
  keys: 0, // acoustic grand piano
  mallets: 12, // marimba
  plucked: 24, // nylon guitar
  bass: 32, // acoustic bass
  strings: 48, // string ensemble
  reed: 71, // clarinet
  drums: 0, // standard kit
  plain: 0,
};

/** The kind of voice that suits a track: the one that was chosen; else drums on channel 10, else by its program. */
export function voiceKind(track: Track): VoiceKind {
  if (track.voice !== null) return track.voice;
  const channel = track.channel ?? track.parts.find((p) => p.notes.length > 0)?.notes[0].channel ?? 0;
  if (channel === PERCUSSION_CHANNEL) return 'drums';
  const event = track.setup.find((e) => e.type === 'program' && (track.channel !== null || e.channel === channel));
  const program = track.program ?? (event?.type === 'program' ? event.program : 0);
  return familyOf(program);
}

/** Whether a track's pitches are the keys of a drum kit. */
export function isDrums(track: Track): boolean {
  return voiceKind(track) === 'drums';
}

/** Names of the percussion keys that kits share (General MIDI System Level 1 percussion map). */
const PERCUSSION: Readonly<Record<number, string>> = {
  35: 'Bass drum 2',
  36: 'Bass drum',
  37: 'Side stick',
  38: 'Snare',
  39: 'Hand clap',
  40: 'Snare 2',
  41: 'Low floor tom',
  42: 'Closed hi-hat',
  43: 'High floor tom',
  44: 'Pedal hi-hat',
  45: 'Low tom',
  46: 'Open hi-hat',
  47: 'Low-mid tom',
  48: 'Hi-mid tom',
  49: 'Crash',
  50: 'High tom',
  51: 'Ride',
  52: 'China',
  53: 'Ride bell',
  54: 'Tambourine',
  55: 'Splash',
  56: 'Cowbell',
  57: 'Crash 2',
  59: 'Ride 2',
  69: 'Cabasa',
  70: 'Maracas',
  75: 'Claves',
  76: 'High wood block',
  77: 'Low wood block',
  80: 'Mute triangle',
  81: 'Open triangle',
};

/** Name of a percussion key, or its number where the map has none. */
export function percussionName(pitch: number): string {
  return PERCUSSION[pitch] ?? `Key ${pitch}`;
}
