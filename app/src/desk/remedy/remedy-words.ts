import { gridName, type Analysis } from '@early-sparrow/core/insight';
import type { Doubt, Remedy } from '@early-sparrow/core/remedy';
import { counted } from '@early-sparrow/core/song';
import { countedFirst, earlyOrLate, shortMs } from '../../common/format';
import type { Row } from './remedying';

/** How a track leans: `18 ms late, ±2 ms`. */
export function leanWords(analysis: Analysis | null): string {
  const lag = analysis?.lag;
  if (!lag) return '';
  if (lag.drifting) return `about ${earlyOrLate(lag.ms)}`;
  const half = lag.interval ? (lag.interval.high - lag.interval.low) / 2 : 0;
  return `${Math.abs(lag.ms) < 1 ? 'no lag' : earlyOrLate(lag.ms)}${half >= 0.5 ? `, ±${half.toFixed(0)}\u00a0ms` : ''}`;
}

/** How far the player's time wanders. */
export function wanderWords(analysis: Analysis | null): string {
  const lag = analysis?.lag;
  if (!lag) return '';
  return lag.drifting ? `±${lag.wanderMs.toFixed(0)}\u00a0ms` : 'steady';
}

/** What a remedy would change: `388 of 412 notes, typically 9 ms, no merges`. */
export function changeWords({ report, remedy, applied }: Row): string {
  if (!report) return '';
  // Lines that follow the player are found once it is applied or heard.
  const about = remedy.setting?.lines === 'follow' && !applied ? 'about ' : '';
  const { notes, moved, typicalMs, merges, doubles } = report;
  if (moved === 0) return 'nothing moves';
  const merged = merges === 0 ? 'no merges' : `${counted(merges, 'chord')} merge${merges === 1 ? 's' : ''}`;
  const twice = doubles === 0 ? '' : `, ${counted(doubles, 'double')}`;
  return `${about}${moved} of ${notes} notes, typically ${shortMs(typicalMs)}\u00a0ms, ${merged}${twice}`;
}

/** Why a row is not sure, or why its grid fits. */
export function whyWords({ remedy, track, common, applied }: Row): string {
  const { analysis, state, doubts } = remedy;
  if (state === 'empty') return 'It has no notes.';
  if (state === 'treated' && !applied)
    return `${track.name} has a treatment already. It stays unless you apply this one.`;
  const [best] = analysis?.fits ?? [];
  if (state === 'good') return `It lies on the ${best ? gridName(best.grid) : ''} lines already.`;
  if (doubts.length === 0) return best?.reason ?? '';
  return doubts
    .slice(0, 2)
    .map((doubt) => doubtWords(doubt, remedy, common))
    .join(' ');
}

function doubtWords(doubt: Doubt, { analysis, chords }: Remedy, common: number | null): string {
  const lag = analysis?.lag;
  const [best, second] = analysis?.fits ?? [];
  switch (doubt) {
    case 'few-notes':
      return `Only ${counted(chords, 'chord')} to go by.`;
    case 'grid':
      return second ? `${second.text} may fit as well.` : 'No grid explains the notes well.';
    case 'lag': {
      const other = analysis?.readings.at(0);
      if (other && !lag?.sure) return `Could also be ${earlyOrLate(other.lag.ms)}, on ${other.fit.text}.`;
      return 'The lag cannot be told more closely from these notes.';
    }
    case 'apart':
      return `The other tracks are ${common === null ? 'elsewhere' : earlyOrLate(common)}.`;
    case 'wanders':
      return 'The player wanders, so the lines follow the player.';
    case 'tempo':
      return 'Not played to the song’s tempo. Fit the tempo first.';
    case 'loose':
      return `Loose: typically ${shortMs(best?.missMs ?? 0)}\u00a0ms off the lines.`;
    case 'merges':
      return `${countedFirst(best?.merges ?? 0, 'chord')} would merge.`;
  }
}

/** The whole table in a sentence. */
export function tableWords(rows: readonly Row[]): string {
  const open = rows.filter((r) => !r.applied);
  const count = (state: Remedy['state']) => open.filter((r) => r.remedy.state === state).length;
  const said = [
    [rows.length - open.length, 'applied'],
    [count('sure'), 'sure'],
    [count('doubtful'), 'doubtful'],
    [count('treated'), 'treated already'],
    [count('good'), 'good as played'],
    [count('empty'), 'empty'],
  ] as const;
  const states = said.flatMap(([n, what]) => (n > 0 ? [`${n} ${what}`] : []));
  return `${counted(rows.length, 'track')}: ${states.join(', ')}.`;
}
