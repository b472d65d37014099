import * as z from 'zod';
import {
  chosenRound,
  exchanged,
  PartEventSchema,
  TickSchema,
  withRound,
  type Content,
  type Part,
  type TakeRound,
} from '../../song';
import { base, kind, problem } from '../kind';
import { onPart } from '../on';

const EventsSchema = z.array(PartEventSchema).readonly();

const schema = z.object({
  ...base,
  kind: z.literal('part-take'),
  part: z.string(),
  /** Id of the round. */
  take: z.string(),
  /** Only what begins between these ticks changes places; left out: everything. */
  range: z.object({ from: TickSchema, to: TickSchema }).optional(),
  /** Where it takes an exchange back: the events of the range and of its ends, as they were. */
  events: z.object({ part: EventsSchema, take: EventsSchema }).optional(),
});
type PartTake = z.infer<typeof schema>;
type Range = NonNullable<PartTake['range']>;

/**
 * Chooses a round of a part's takes: it changes places with the one that was chosen, with all that was done to that. Or,
 * of a range, the notes and events of both change places, and the choice stays. Nothing is lost either way; a pedal
 * that is held over an end of the range is let go there and set again.
 */
export const partTake = kind<PartTake>({
  schema,
  apply: (song, edit) =>
    onPart<PartTake>(song, edit.part, (part) => {
      const round = part.takes?.others.find((r) => r.id === edit.take);
      if (!part.takes || !round) return problem(`“${part.name}” has no such take to choose.`);
      if (edit.range) return exchange(part, round, edit, edit.range);
      const { chosen, others } = part.takes;
      const before = chosenRound(part, part.takes);
      return {
        part: withRound(
          part,
          round,
          others.map((r) => (r === round ? before : r)),
        ),
        inverse: { ...edit, take: chosen.id },
      };
    }),
});

function exchange(part: Part, round: TakeRound, edit: PartTake, range: Range): { part: Part; inverse: PartTake } {
  const [own, other] = exchanged(part, round, range);
  const { events } = edit;
  const mine = events ? withEvents(own, range, events.part) : own;
  const theirs = events ? withEvents(other, range, events.take) : other;
  const others = part.takes!.others.map((r) => (r === round ? { ...r, ...theirs } : r));
  return {
    part: { ...part, ...mine, takes: { ...part.takes!, others } },
    inverse: { ...edit, events: { part: eventsAt(part, range), take: eventsAt(round, range) } },
  };
}

/** The events that an exchange of a range can touch. */
function eventsAt({ events }: Content, { from, to }: Range): Content['events'] {
  return events.filter((e) => e.tick >= from && e.tick <= to);
}

function withEvents({ notes, events }: Content, { from, to }: Range, within: Content['events']): Content {
  return { notes, events: [...events.filter((e) => e.tick < from), ...within, ...events.filter((e) => e.tick > to)] };
}
