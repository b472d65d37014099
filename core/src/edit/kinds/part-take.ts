import { z } from 'zod';
import { byPlace, TickSchema, type Part, type TakeRound } from '../../song';
import { base, kind, problem } from '../kind';
import { onPart } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('part-take'),
  part: z.string(),
  /** Id of the round. */
  take: z.string(),
  /** Only what begins between these ticks changes places; left out: everything. */
  range: z.object({ from: TickSchema, to: TickSchema }).optional(),
});

/**
 * Chooses a round of a part's takes: it changes places with the one that was chosen, with all that was done to that. Or,
 * of a range, the notes and events of both change places, and the choice stays. Nothing is lost either way.
 */
export const partTake = kind({
  schema,
  apply: (song, edit) =>
    onPart(song, edit.part, (part) => {
      const round = part.takes?.others.find((r) => r.id === edit.take);
      if (!part.takes || !round) return problem(`“${part.name}” has no such take to choose.`);
      if (edit.range) return { part: exchange(part, round, edit.range), inverse: edit };
      const { chosen } = part.takes;
      const { notes, events } = part;
      const others = part.takes.others.map((r) => (r === round ? { ...chosen, notes, events } : r));
      const takes = { chosen: { id: round.id, name: round.name }, others };
      return {
        part: { ...part, notes: round.notes, events: round.events, takes },
        inverse: { ...edit, take: chosen.id },
      };
    }),
});

function exchange(part: Part, round: TakeRound, { from, to }: { from: number; to: number }): Part {
  const inside = (tick: number) => tick >= from && tick < to;
  const mixed = (a: Pick<Part, 'notes' | 'events'>, b: Pick<Part, 'notes' | 'events'>) => ({
    notes: [...a.notes.filter((n) => !inside(n.start)), ...b.notes.filter((n) => inside(n.start))].sort(byPlace),
    events: [...a.events.filter((e) => !inside(e.tick)), ...b.events.filter((e) => inside(e.tick))].sort(
      (x, y) => x.tick - y.tick,
    ),
  });
  const others = part.takes!.others.map((r) => (r === round ? { ...r, ...mixed(round, part) } : r));
  return { ...part, ...mixed(part, round), takes: { ...part.takes!, others } };
}
