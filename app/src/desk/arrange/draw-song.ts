import { peakBetween, type Peaks } from '@early-sparrow/core/audio';
import { inBlocks } from '@early-sparrow/core/maths';
import { fileAt, type Part, type PartAudio } from '@early-sparrow/core/song';
import type { MeterMap } from '@early-sparrow/core/time';
import { partColumns, pitchRange } from '@early-sparrow/core/treatment';
import { colourOf } from '../../common/colours';
import type { Palette } from '../../common/theme';
import { faint, NUMBER_FONT, TEXT_FONT } from '../kit/draw';
import { RULER, spanOf, type SongRows } from './song-rows';

/** What is drawn into. */
export interface Sheet {
  readonly ctx: CanvasRenderingContext2D;
  readonly rows: SongRows;
  readonly colors: Palette;
  /** Pictures of sound files, by their id. */
  readonly peaks: ReadonlyMap<string, Peaks>;
}

/** Bars over the whole song. */
export function drawBars({ ctx, rows, colors }: Sheet, meter: MeterMap, end: number): void {
  ctx.font = `12px ${NUMBER_FONT}`;
  ctx.textAlign = 'left';
  ctx.textBaseline = 'middle';
  for (const bar of meter.bars(0, end, (44 / Math.max(1, rows.width())) * end)) {
    const x = rows.x(bar);
    ctx.fillStyle = colors.line;
    ctx.fillRect(Math.round(x), 0, 1, rows.height());
    ctx.fillStyle = colors.soft;
    ctx.fillText(String(meter.toBarBeat(bar).bar), x + 4, RULER / 2);
  }
}

/** The parts of the tracks in view: at the height of the song view with a border and their names. */
export function drawTracks(sheet: Sheet, current: string | null, chosen: ReadonlySet<string>): void {
  const { ctx, rows, colors } = sheet;
  const row = rows.row();
  const [first, behind] = rows.rowsInView();
  ctx.save();
  ctx.beginPath();
  ctx.rect(0, RULER, rows.width(), rows.height() - RULER);
  ctx.clip();
  for (let i = first; i < behind; i++) {
    const track = rows.tracks()[i];
    const y = rows.y(i);
    if (rows.arranges()) {
      ctx.fillStyle = faint(colors.line, 0.6);
      ctx.fillRect(0, y + row - 1, rows.width(), 1);
    }
    for (const part of track.parts) {
      const colour = colourOf(part, track);
      drawPart(sheet, { part, y, colour, inCurrent: track.id === current, chosen: chosen.has(part.id) });
    }
  }
  ctx.restore();
}

/** How a part is drawn. */
interface DrawnPart {
  readonly part: Part;
  readonly y: number;
  readonly colour: string | null;
  readonly inCurrent: boolean;
  readonly chosen: boolean;
}

function drawPart(sheet: Sheet, { part, y, colour, inCurrent, chosen }: DrawnPart): void {
  const { ctx, rows, colors } = sheet;
  const { from, to } = spanOf(part);
  const [x, w, h] = [rows.x(from), Math.max(1, rows.x(to) - rows.x(from)), rows.row() - 2];
  ctx.globalAlpha = part.muted ? 0.45 : 1;
  ctx.fillStyle = chosen ? faint(colors.action, 0.22) : colour ? faint(colour, 0.2) : colors.raised;
  ctx.fillRect(x, y, w, h);
  if (colour) {
    ctx.fillStyle = colour;
    ctx.fillRect(x, y, Math.min(3, w), h);
  }
  if (part.audio && rows.arranges()) drawWave(sheet, part, part.audio, y, h);
  ctx.fillStyle = inCurrent ? colors.action : colors.soft;
  const head = rows.arranges() ? 14 : 0;
  drawNotes(sheet, part, y + head, h - head);
  if (rows.arranges()) {
    ctx.strokeStyle = chosen ? colors.action : colors.line;
    ctx.lineWidth = chosen ? 2 : 1;
    ctx.strokeRect(x + 0.5, y + 0.5, w - 1, h - 1);
    ctx.lineWidth = 1;
    if (w > 24) drawName(sheet, part, x, y, w);
  }
  ctx.globalAlpha = 1;
}

/** A part's sound file under its hits, each pixel from its lowest to its highest sample. */
function drawWave({ ctx, rows, colors, peaks }: Sheet, part: Part, audio: PartAudio, y: number, h: number): void {
  const drawn = peaks.get(audio.file);
  if (!drawn) return;
  const middle = y + 14 + (h - 14) / 2;
  const half = (h - 16) / 2;
  ctx.fillStyle = faint(colors.soft, 0.45);
  const last = Math.min(rows.width(), Math.ceil(rows.x(part.end)));
  for (let x = Math.max(0, Math.floor(rows.x(part.start))); x < last; x++) {
    const peak = peakBetween(drawn, fileAt(audio, rows.tick(x)), fileAt(audio, rows.tick(x + 1)));
    if (peak) ctx.fillRect(x, middle - peak[1] * half, 1, Math.max(1, (peak[1] - peak[0]) * half));
  }
}

/** A part's name, behind a dot that says whether its treatment is on. */
function drawName({ ctx, colors }: Sheet, part: Part, x: number, y: number, w: number): void {
  ctx.save();
  ctx.beginPath();
  ctx.rect(x, y, w - 4, 16);
  ctx.clip();
  ctx.font = `11px ${TEXT_FONT}`;
  ctx.textAlign = 'left';
  ctx.textBaseline = 'top';
  ctx.fillStyle = colors.ink;
  ctx.fillText(`${part.on ? '●' : '○'} ${part.name}${part.muted ? ' (muted)' : ''}`, x + 5, y + 3);
  ctx.restore();
}

/** A stroke a note, each pixel at most once: a million notes are no more than there are pixels. */
function drawNotes({ ctx, rows }: Sheet, part: Part, y: number, height: number): void {
  const { count, start, end, pitch } = partColumns(part);
  const { lowest, highest } = pitchRange(pitch);
  const range = Math.max(1, highest - lowest);
  const width = Math.ceil(rows.width()) + 1;
  const lines = Math.max(1, Math.round(height - 2));
  const [left, right] = [
    Math.max(0, Math.floor(rows.x(spanOf(part).from))),
    Math.min(width, Math.ceil(rows.x(part.end)) + 1),
  ];
  const across = Math.max(1, right - left);
  const marked = new Uint8Array(across * lines);
  const scale = rows.x(1);
  inBlocks(count, (first, last) => {
    for (let i = first; i < last; i++) {
      const line = Math.round((lines - 1) * (1 - (pitch[i] - lowest) / range)) * across;
      const from = Math.max(0, Math.floor(start[i] * scale) - left);
      const to = Math.min(across, Math.max(from + 1, Math.floor(end[i] * scale - 0.5) - left));
      for (let x = from; x < to; x++) marked[line + x] = 1;
    }
  });
  for (let line = 0; line < lines; line++) {
    for (let x = 0; x < across; x++) {
      if (marked[line * across + x] === 0) continue;
      const from = x;
      while (x < across && marked[line * across + x] === 1) x++;
      ctx.fillRect(left + from, y + line, x - from, 1.5);
    }
  }
}
