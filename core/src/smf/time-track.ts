import type { Song, SongMeter, SongTempo } from '../song';
import type { Division } from './division';
import type { SmfNotice } from './problem';
import { SET_TEMPO, TIME_SIGNATURE, type RawEvent, type ReadTrack } from './track-reader';

/** Tempo and meter of a whole song, in the ticks of its file. */
export type Conductor = Pick<Song, 'tempo' | 'meter'>;

/**
 * Finds tempo and meter of the whole song: the first track's, as the standard asks; else those found elsewhere. What
 * other tracks say of them is kept as their own events, which count for nothing. A file that counts in seconds has
 * one tempo, and none of its own is kept: written in beats it would come alive.
 */
export function timeTrack(tracks: readonly ReadTrack[], division: Division, notices: SmfNotice[]): Conductor {
  const first = tracks[0];
  const inSeconds = division.usPerQuarter !== null;
  const tempoFrom = first.tempo.length > 0 ? 0 : tracks.findIndex((t) => t.tempo.length > 0);
  const meterFrom = first.meter.length > 0 ? 0 : tracks.findIndex((t) => t.meter.length > 0);
  tracks.forEach((track, i) => {
    tellUnreadable(track, i, notices);
    const kept: RawEvent[] = [];
    if (i !== tempoFrom && !inSeconds) for (const t of track.tempo) kept.push(tempoAsMeta(t));
    if (i !== meterFrom) for (const m of track.meter) kept.push(meterAsMeta(m));
    if (kept.length > 0) {
      for (const event of kept) track.events.push(event);
      track.events.sort((a, b) => (a.order ?? 0) - (b.order ?? 0));
    }
    const leads = i > 0 && ((i === tempoFrom && !inSeconds) || i === meterFrom);
    if (kept.length === 0 && !leads) return;
    const text = leads
      ? `Tempo or meter is written in track ${i + 1} instead of the first; it holds for the whole song.`
      : `Track ${i + 1} has tempo or meter changes of its own; they are kept but the first track's hold.`;
    notices.push({ code: 'late-tempo', track: i, offset: null, text });
  });
  return {
    tempo:
      division.usPerQuarter === null
        ? (tracks[tempoFrom]?.tempo ?? [])
        : [{ tick: 0, order: -1, usPerQuarter: division.usPerQuarter }],
    meter: tracks[meterFrom]?.meter ?? [],
  };
}

/** Says which tempi and meters make no sense; they are kept as the bytes that they are. */
function tellUnreadable(track: ReadTrack, index: number, notices: SmfNotice[]): void {
  const has = (meta: number) => track.events.some((e) => e.type === 'meta' && e.meta === meta);
  const tell = (code: 'bad-tempo' | 'bad-meter', what: string) =>
    notices.push({
      code,
      track: index,
      offset: null,
      text: `A ${what} in track ${index + 1} cannot be read; it is kept in the file but does not count.`,
    });
  if (has(SET_TEMPO)) tell('bad-tempo', 'tempo');
  if (has(TIME_SIGNATURE)) tell('bad-meter', 'meter');
}

function tempoAsMeta({ tick, order, usPerQuarter: us }: SongTempo): RawEvent {
  return { tick, order, type: 'meta', meta: SET_TEMPO, data: Uint8Array.of(us >> 16, us >> 8, us) };
}

function meterAsMeta({ tick, order, numerator, denominator, clocks, thirtySeconds }: SongMeter): RawEvent {
  const data = Uint8Array.of(numerator, Math.log2(denominator), clocks, thirtySeconds);
  return { tick, order, type: 'meta', meta: TIME_SIGNATURE, data };
}
