import { peakBetween, type Peaks } from '@early-sparrow/core/audio';
import { fileAt, type Part, type PartAudio, type Song } from '@early-sparrow/core/song';
import { clipped, faint, sideLabel, type Scene } from '../kit/draw';
import type { Frame } from '../kit/frame';
import { KEYS_WIDTH } from '../kit/viewport';

/** A sound file in the picture. */
export interface Wave {
  readonly part: Part;
  readonly audio: PartAudio;
  /** Null while it is not there. */
  readonly peaks: Peaks | null;
}

/** Room between the strip's edges and the loudest sound, in px. */
const MARGIN = 4;
/** Hits closer together than this have no strokes, in px. */
const CLOSEST = 8;

/** The parts whose sound files are drawn, each with its file: those of the current track, or of the first that has some. */
export function waveParts(song: Song, trackId: string): Pick<Wave, 'part' | 'audio'>[] {
  const withAudio = song.tracks.filter((t) => t.parts.some((p) => p.audio));
  const track = withAudio.find((t) => t.id === trackId) ?? withAudio.at(0);
  return track?.parts.flatMap((part) => (part.audio ? [{ part, audio: part.audio }] : [])) ?? [];
}

/** Sound files over the real grid lines, each pixel from its lowest to its highest sample, and their hits. */
export function drawWaves(scene: Scene, frame: Frame, waves: readonly Wave[]): void {
  const { ctx, view, colors } = scene;
  const { top, height } = frame;
  if (height === 0) return;
  ctx.fillStyle = colors.line;
  ctx.fillRect(0, top, view.width(), 1);
  ctx.fillStyle = colors.soft;
  sideLabel(ctx, 'sound', top + height / 2);
  clipped(ctx, KEYS_WIDTH, top + 1, view.notesWidth(), height - 1, () => {
    for (const wave of waves) {
      ctx.fillStyle = faint(colors.raised, 0.55);
      const from = view.x(wave.part.start);
      ctx.fillRect(from, top + 1, view.x(wave.part.end) - from, height - 1);
      drawHits(scene, frame, wave);
      if (wave.peaks) drawPeaks(scene, frame, wave, wave.peaks);
    }
  });
}

function drawPeaks({ ctx, view, colors }: Scene, { top, height }: Frame, { part, audio }: Wave, peaks: Peaks): void {
  const middle = top + height / 2;
  const half = height / 2 - MARGIN;
  const first = Math.max(KEYS_WIDTH, Math.floor(view.x(part.start)));
  const last = Math.min(view.width(), Math.ceil(view.x(part.end)));
  ctx.fillStyle = colors.soft;
  for (let x = first; x < last; x++) {
    const peak = peakBetween(peaks, fileAt(audio, view.tick(x)), fileAt(audio, view.tick(x + 1)));
    if (!peak) continue;
    const [low, high] = peak;
    ctx.fillRect(x, middle - high * half, 1, Math.max(1, (high - low) * half));
  }
}

/** A stroke where each hit is: between it and a line is what swings. From far away a mark at the top is enough. */
function drawHits({ ctx, view, colors }: Scene, { top, height }: Frame, { part }: Wave): void {
  const seen = part.notes.map(({ start }) => view.x(start)).filter((x) => x >= KEYS_WIDTH && x <= view.width());
  if (seen.length === 0) return;
  const apart = (seen[seen.length - 1] - seen[0]) / seen.length;
  ctx.fillStyle = colors.action;
  for (const x of seen) {
    if (seen.length === 1 || apart >= CLOSEST) ctx.fillRect(Math.round(x) - 0.5, top + 1, 1, height);
    ctx.fillRect(Math.round(x) - 2.5, top + 1, 5, 3);
  }
}
