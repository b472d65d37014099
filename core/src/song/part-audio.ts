import * as z from 'zod';
import type { Ms, TempoMap, Ticks } from '../time';
import { NameSchema } from './units';

/** A place of the song and the place of a sound file that sounds there. The tick need not be whole. */
const AnchorSchema = z.object({ tick: z.number(), ms: z.number() });
export type Anchor = Readonly<z.infer<typeof AnchorSchema>>;

/** Whether the sound of a part with audio is the file, its notes, or both. */
export const HEARD = ['file', 'notes', 'both'] as const;

/** A sound file that a part plays along and is drawn with. Its bytes are kept beside the song. */
export const PartAudioSchema = z.object({
  /** SHA-256 of the file's bytes, in hex. */
  file: z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in hex is expected'),
  name: NameSchema,
  /** Length of the whole file. */
  ms: z.number().positive(),
  /** Between two anchors it runs evenly; before the first and after the last it is silent. */
  anchors: z
    .array(AnchorSchema)
    .min(2)
    .max(100_000)
    .readonly()
    .refine((all) => all.every((a, i) => i === 0 || (a.tick > all[i - 1].tick && a.ms > all[i - 1].ms)), {
      message: 'anchors rise in the song and in the file',
    }),
  heard: z.enum(HEARD),
});
export type PartAudio = Readonly<z.infer<typeof PartAudioSchema>>;

type From = 'tick' | 'ms';

/** What lies at a place between anchors; beyond them it goes on as between the last two. */
function between(anchors: readonly Anchor[], from: From, to: From, at: number): number {
  let low = 0;
  let high = anchors.length - 2;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (anchors[middle][from] <= at) low = middle;
    else high = middle - 1;
  }
  const [a, b] = [anchors[low], anchors[low + 1]];
  return a[to] + ((at - a[from]) * (b[to] - a[to])) / (b[from] - a[from]);
}

/** The place of the file, in ms, that sounds at a tick. */
export function fileAt({ anchors }: Pick<PartAudio, 'anchors'>, tick: Ticks): Ms {
  return between(anchors, 'tick', 'ms', tick);
}

/** The tick (fractional) at which a place of the file sounds. */
export function tickOfFile({ anchors }: Pick<PartAudio, 'anchors'>, ms: Ms): Ticks {
  return between(anchors, 'ms', 'tick', ms);
}

/** The same file, later by some ticks. */
export function shiftAudio(audio: PartAudio, by: Ticks): PartAudio {
  return { ...audio, anchors: audio.anchors.map((a) => ({ ...a, tick: a.tick + by })) };
}

/** The same file sounding where it does, under another tempo map: it has an anchor more at each change of either. */
export function retimeAudio(audio: PartAudio, from: TempoMap, to: TempoMap): PartAudio {
  const [first, last] = [audio.anchors[0], audio.anchors[audio.anchors.length - 1]];
  const inside = (ms: Ms) => ms > from.toMs(first.tick) && ms < from.toMs(last.tick);
  const changes = [...from.ms, ...to.ms].filter(inside);
  const times = [...audio.anchors.map((a) => from.toMs(a.tick)), ...changes].sort((a, b) => a - b);
  const anchors: Anchor[] = [];
  for (const time of times) {
    const anchor = { tick: fine(to.toTick(time)), ms: fileAt(audio, from.toTick(time)) };
    const before = anchors.at(-1);
    if (!before || (anchor.tick > before.tick && anchor.ms > before.ms)) anchors.push(anchor);
  }
  return { ...audio, anchors };
}

/** A place as an anchor has it: by shares of a tick that add up without rounding, so that a move is taken back exactly. */
export function fine(tick: Ticks): Ticks {
  return Math.round(tick * FINE) / FINE;
}
const FINE = 1024;

/** How fast a file runs at a tick: 1 at its own speed, 2 twice as fast. */
export function speedAt(audio: PartAudio, tick: Ticks, tempo: TempoMap): number {
  return (fileAt(audio, tick + 1) - fileAt(audio, tick)) / tempo.between(tick, tick + 1);
}
