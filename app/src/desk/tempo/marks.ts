import { keyName, keysOf, type Song } from '@early-sparrow/core/song';

interface At {
  /** Ticks. */
  readonly at: number;
}

/** Something that is set or named at a place of the song: what the ruler and the list show. */
export type Mark = At &
  (
    | {
        readonly kind: 'tempo';
        readonly bpm: number;
        /** Where many changes follow each other closely: the last one's place and tempo, and how many there are. */
        readonly run?: { readonly to: number; readonly bpm: number; readonly count: number };
      }
    | { readonly kind: 'meter'; readonly numerator: number; readonly denominator: number }
    | { readonly kind: 'key'; readonly sharps: number; readonly minor: boolean }
    | { readonly kind: 'marker'; readonly index: number; readonly name: string }
  );

/** So many changes, each at most a quarter note after the one before, are shown as one that moves. */
const RUN = 4;

/** The marks of a song in order of time. What holds at its start stands there, whether its file said it or not. */
export function marksOf(song: Song): Mark[] {
  const order = { tempo: 0, meter: 1, key: 2, marker: 3 };
  return [
    ...tempoMarks(song),
    ...meterMarks(song),
    ...keysOf(song).map(({ tick, sharps, minor }) => ({ kind: 'key', at: tick, sharps, minor }) as const),
    ...song.markers.map(({ tick, name }, index) => ({ kind: 'marker', at: tick, index, name }) as const),
  ].sort((a, b) => a.at - b.at || order[a.kind] - order[b.kind]);
}

function tempoMarks({ tempo, ppq }: Song): Mark[] {
  // Of several changes at one tick the last one counts.
  const real = tempo.filter((t, i) => tempo.at(i + 1)?.tick !== t.tick);
  const marks: Mark[] = real[0]?.tick === 0 ? [] : [{ kind: 'tempo', at: 0, bpm: 120 }];
  for (let i = 0; i < real.length;) {
    let last = i;
    while (last + 1 < real.length && real[last + 1].tick - real[last].tick <= ppq) last++;
    const [from, to] = [real[i], real[last]];
    const count = last - i + 1;
    if (count >= RUN) {
      const run = { to: to.tick, bpm: 60e6 / to.usPerQuarter, count };
      marks.push({ kind: 'tempo', at: from.tick, bpm: 60e6 / from.usPerQuarter, run });
      i = last + 1;
    } else {
      marks.push({ kind: 'tempo', at: from.tick, bpm: 60e6 / from.usPerQuarter });
      i++;
    }
  }
  return marks;
}

function meterMarks({ meter }: Song): Mark[] {
  const real = meter.filter((m, i) => meter.at(i + 1)?.tick !== m.tick);
  const marks = real.map(
    ({ tick, numerator, denominator }) => ({ kind: 'meter', at: tick, numerator, denominator }) as const,
  );
  return real[0]?.tick === 0 ? marks : [{ kind: 'meter', at: 0, numerator: 4, denominator: 4 }, ...marks];
}

/** `120`, `96.5`: a tempo with at most two decimals. */
export function bpmText(bpm: number): string {
  return String(Math.round(bpm * 100) / 100);
}

/** What the ruler shows of a mark. */
export function markText(mark: Mark): string {
  if (mark.kind === 'tempo') {
    return mark.run ? `${Math.round(mark.bpm)} → ${Math.round(mark.run.bpm)} BPM` : `${bpmText(mark.bpm)} BPM`;
  }
  if (mark.kind === 'meter') return `${mark.numerator}/${mark.denominator}`;
  return mark.kind === 'key' ? keyName(mark) : mark.name;
}

/** What kind of mark it is, for people. */
export const MARK_KINDS = { tempo: 'Tempo', meter: 'Meter', key: 'Key', marker: 'Marker' } as const;
