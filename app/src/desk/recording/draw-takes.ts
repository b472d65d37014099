import { summarize } from '@early-sparrow/core/insight';
import type { Part, Song, TakeRound } from '@early-sparrow/core/song';
import { clipped, faint, NUMBER_FONT, type Scene } from '../kit/draw';
import { leanColor } from '../picture/draw-notes';
import { leanOf, pictureOf, type Picture } from '../hand/picture';
import { KEYS_WIDTH } from '../kit/viewport';

/** Height of a take's row, in px. */
export const TAKE_ROW = 22;
/** Room for the typical miss at the right. */
const MISS_WIDTH = 64;

/** A take as it is drawn: how it was played against the lines that the part has now. */
export interface DrawnTake {
  readonly picture: Picture;
  readonly chosen: boolean;
  /** Median size of its offsets, in ms. */
  readonly missMs: number;
}

/** @param rounds all of the part's takes */
export function drawnTakes(part: Part, rounds: readonly TakeRound[], song: Song): DrawnTake[] {
  const { quantize } = part.treatment;
  // Each against its nearest lines: nobody waits for a worker to see which one is tighter.
  const treatment = { ...part.treatment, quantize: { ...quantize, lines: 'nearest' as const } };
  return rounds.map(({ id, notes, events }) => {
    const picture = pictureOf({ ...part, treatment, notes, events }, song);
    const missMs = summarize(picture.chords.before).typicalMiss;
    return { picture, chosen: id === part.takes?.chosen.id, missMs };
  });
}

/** The takes one under the other, over the same stretch of time as the roll: what was early, what was late. */
export function drawTakes(scene: Scene, takes: readonly DrawnTake[]): void {
  const { ctx, view, colors } = scene;
  ctx.clearRect(0, 0, view.width(), takes.length * TAKE_ROW);
  takes.forEach((take, row) => {
    const top = row * TAKE_ROW;
    if (take.chosen) {
      ctx.fillStyle = faint(colors.action, 0.12);
      ctx.fillRect(0, top, view.width(), TAKE_ROW);
    }
    clipped(ctx, KEYS_WIDTH, top, view.notesWidth() - MISS_WIDTH, TAKE_ROW, () => drawNotes(scene, take, top));
    ctx.font = `12px ${NUMBER_FONT}`;
    ctx.textAlign = 'right';
    ctx.textBaseline = 'middle';
    ctx.fillStyle = colors.soft;
    ctx.fillText(`±${take.missMs.toFixed(0)} ms`, view.width() - 8, top + TAKE_ROW / 2);
  });
}

function drawNotes(scene: Scene, { picture }: DrawnTake, top: number): void {
  const { ctx, view } = scene;
  const range = Math.max(1, picture.highest - picture.lowest);
  for (let i = 0; i < picture.count; i++) {
    const x = view.x(picture.played[i]);
    const w = Math.max(2, (picture.playedEnd[i] - picture.played[i]) * view.scale() - 1);
    if (x > view.width() || x + w < KEYS_WIDTH) continue;
    const y = top + 3 + (1 - (picture.pitch[i] - picture.lowest) / range) * (TAKE_ROW - 10);
    ctx.fillStyle = leanColor(scene, leanOf(picture.before[i]));
    ctx.fillRect(x, y, w, 4);
  }
}
