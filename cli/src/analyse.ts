import { analysePart, readTogether, songLean } from '@early-sparrow/core/insight';
import { readSmf } from '@early-sparrow/core/smf';
import { noteCount, type Song } from '@early-sparrow/core/song';

/** What is told about one file; the fields of its JSON document. */
export interface FileAnalysis {
  readonly file: string;
  readonly ppq: number;
  readonly tracks: readonly TrackAnalysis[];
  /** What most tracks share: the song lies beside its bars; null where they do not. Early is negative. */
  readonly commonLean: { readonly ms: number; readonly tracks: readonly number[] } | null;
}

export interface TrackAnalysis {
  readonly index: number;
  readonly name: string;
  readonly notes: number;
  readonly chords: number;
  readonly grids: readonly {
    readonly grid: string;
    readonly bits: number;
    readonly missMs: number;
    readonly merges: number;
    readonly lagMs: number;
    readonly reason: string;
  }[];
  readonly sure: boolean;
  readonly lagMs: number | null;
  readonly lagLowMs: number | null;
  readonly lagHighMs: number | null;
  /** Whether no reading with another lag is near. */
  readonly lagSure: boolean;
  /** What the playing could be under another lag, best first, with the bits that it takes more. */
  readonly readings: readonly { readonly grid: string; readonly lagMs: number; readonly behind: number }[];
  readonly drifting: boolean;
  /** Nine in ten chords' time is no further from the lag than this; null where the player does not drift. */
  readonly wanderMs: number | null;
  readonly swing: { readonly share: number; readonly low: number; readonly high: number } | null;
}

/** Analyses every track with notes. @throws SmfError */
export function analyseFile(file: string, bytes: Uint8Array): { document: FileAnalysis; notices: string[] } {
  const { song, notices } = readSmf(bytes, file);
  return { document: analyseSong(file, song), notices: notices.map((n) => n.text) };
}

function analyseSong(file: string, song: Song): FileAnalysis {
  const found = song.tracks.flatMap((track, index) =>
    noteCount(track) > 0 ? [{ track, index, analysis: analysePart(track.parts[0], song) }] : [],
  );
  const read = readTogether(found.map(({ analysis }) => analysis));
  const tracks = found.map(({ track, index }, i): TrackAnalysis => {
    const { fits, sure, chords, lag, swing, readings } = read[i];
    return {
      index,
      name: track.name,
      notes: noteCount(track),
      chords,
      grids: fits.map((f) => ({
        grid: f.text,
        bits: round(f.bits, 3),
        missMs: round(f.missMs, 2),
        merges: f.merges,
        lagMs: round(f.lagMs, 1),
        reason: f.reason,
      })),
      sure,
      lagMs: lag && round(lag.ms, 2),
      lagSure: lag?.sure ?? false,
      lagLowMs: lag?.interval ? round(lag.interval.low, 2) : null,
      lagHighMs: lag?.interval ? round(lag.interval.high, 2) : null,
      readings: readings.map((r) => ({ grid: r.fit.text, lagMs: round(r.lag.ms, 2), behind: round(r.behind, 1) })),
      drifting: lag?.drifting ?? false,
      wanderMs: lag?.drifting ? round(lag.wanderMs, 1) : null,
      swing: swing && {
        share: round(swing.share, 4),
        low: round(swing.interval.low, 4),
        high: round(swing.interval.high, 4),
      },
    };
  });
  const lean = songLean(song);
  const leaning = found.filter(({ track }) => track.parts.some((p) => lean?.parts.includes(p)));
  const commonLean = lean && { ms: round(lean.ms, 2), tracks: leaning.map(({ index }) => index) };
  return { file, ppq: song.ppq, tracks, commonLean };
}

/** A readable table. */
export function table({ file, tracks, commonLean }: FileAnalysis): string {
  const rows = tracks.map((t) => [
    String(t.index),
    t.name.slice(0, 24),
    String(t.chords),
    t.grids
      .slice(0, 3)
      .map((g) => g.grid)
      .join(', ') + (t.sure ? '' : ' (not sure)'),
    t.grids[0] ? `${t.grids[0].missMs.toFixed(1)} ms` : '',
    lagText(t),
    t.swing
      ? `${(t.swing.share * 100).toFixed(1)} % (${(t.swing.low * 100).toFixed(1)} to ${(t.swing.high * 100).toFixed(1)})`
      : '',
  ]);
  const all = [['track', 'name', 'chords', 'grids, best first', 'miss', 'lag', 'swing'], ...rows];
  const widths = all[0].map((_, c) => Math.max(...all.map((row) => row[c].length)));
  const lines = all.map((row) =>
    row
      .map((cell, c) => cell.padEnd(widths[c]))
      .join('  ')
      .trimEnd(),
  );
  const reasons = tracks.flatMap((t) => (t.grids[0] ? [`  ${t.index} ${t.name}: ${t.grids[0].reason}`] : []));
  return [file, ...lines, '', ...leanText(commonLean), ...reasons, ''].join('\n');
}

function leanText(lean: FileAnalysis['commonLean']): string[] {
  if (!lean) return [];
  const side = `${Math.abs(lean.ms).toFixed(1)} ms ${lean.ms < 0 ? 'before' : 'behind'} the bars`;
  return [`  Most tracks (${lean.tracks.join(', ')}) lie ${side}: the whole song does.`];
}

function lagSide(ms: number): string {
  return `${Math.abs(ms).toFixed(1)} ms ${ms < 0 ? 'early' : 'late'}`;
}

function lagText(t: TrackAnalysis): string {
  if (t.lagMs === null) return '';
  const side = lagSide(t.lagMs);
  if (t.wanderMs !== null) return `${side}, wandering ±${t.wanderMs.toFixed(0)} ms`;
  const range =
    t.lagLowMs === null || t.lagHighMs === null ? '' : ` (${t.lagLowMs.toFixed(1)} to ${t.lagHighMs.toFixed(1)})`;
  const [other] = t.readings;
  return side + range + (t.lagSure || !other ? '' : `, or ${lagSide(other.lagMs)} on ${other.grid}`);
}

function round(value: number, digits: number): number {
  return Number(value.toFixed(digits));
}
