import { meterOf, pitchName, tempoOf, type Song } from '../song';
import { noteReports, treatTrack } from '../treatment';
import type { MeterMap } from '../time';
import { cell, csvRow } from './csv';

const COLUMNS = [
  'track',
  'part',
  'note',
  'pitch',
  'name',
  'channel',
  'muted',
  'played',
  'played_ms',
  'corrected',
  'corrected_ms',
  'line',
  'offset_ms',
  'left_ms',
  'fate',
  'length_ms',
  'corrected_length_ms',
  'velocity',
  'corrected_velocity',
];

/**
 * Notes before and after their treatment as comma-separated values (RFC 4180). Places are `bar.beat.tick`, times and
 * offsets ms; early is negative.
 * @param wanted says by the track's id, the note's id and its corrected tick which ones
 */
export function noteListCsv(song: Song, wanted: (track: string, note: number, tick: number) => boolean): string {
  const meter = meterOf(song);
  const tempo = tempoOf(song);
  const rows = song.tracks.flatMap((track) => {
    const treated = treatTrack(track, song);
    return track.parts.flatMap((part, p) => {
      const { end, velocity } = treated[p];
      return noteReports(part, song).flatMap((n, i) => {
        const note = part.notes[i];
        if (!wanted(track.id, note.id, n.corrected)) return [];
        return [
          csvRow([
            track.name,
            part.name,
            n.id,
            n.pitch,
            pitchName(n.pitch),
            note.channel + 1,
            note.muted ? 'yes' : '',
            place(meter, n.played),
            cell(tempo.toMs(n.played)),
            place(meter, n.corrected),
            cell(tempo.toMs(n.corrected)),
            n.line === null ? '' : place(meter, n.line),
            cell(n.offsetMs),
            cell(n.leftMs),
            n.fate,
            cell(tempo.between(note.start, note.start + note.length)),
            cell(tempo.between(n.corrected, end[i])),
            note.velocity,
            velocity[i],
          ]),
        ];
      });
    });
  });
  return [csvRow(COLUMNS), ...rows, ''].join('\r\n');
}

function place(meter: MeterMap, tick: number): string {
  const { bar, beat, tick: rest } = meter.toBarBeat(Math.max(0, tick));
  return `${bar}.${beat}.${rest}`;
}
