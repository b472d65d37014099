import * as z from 'zod';
import { checkJson, parseJson } from '../song';
import { RULE_ACTIONS, type ActionId } from './actions';
import { RULE_CONDITIONS, type ConditionId } from './conditions';
import { schemaOf, type Fields } from './field';

/** Values of a condition's or an action's fields, by name. */
export type FieldValues = Readonly<Record<string, number | string>>;

/** A condition of a rule; its fields are those of its kind. */
export interface Condition {
  readonly is: ConditionId;
  /** Turned around: notes for which it does not hold. */
  readonly not?: boolean | undefined;
  readonly with: FieldValues;
}

/** What a rule does to the notes that it finds. */
export interface Action {
  readonly do: ActionId;
  readonly with: FieldValues;
}

/** `For notes that … do …`: saved, exported and imported like a recipe. */
export interface Rule {
  readonly kind: 'early-sparrow-rule';
  readonly version: 1;
  readonly name: string;
  /** Whether a note has to pass all conditions or any of them; without conditions all notes pass. */
  readonly match: 'all' | 'any';
  readonly when: readonly Condition[];
  /** Of those, in their order, one chord of so many: 1 takes every one. */
  readonly every: number;
  /** Done one after the other, each on what the one before has made. */
  readonly then: readonly Action[];
  /** Of what is random. */
  readonly seed: number;
}

function oneOf<K extends string>(
  key: K,
  kinds: Readonly<Record<string, { readonly fields: Fields }>>,
  more: z.ZodRawShape,
) {
  const all = Object.entries(kinds).map(([id, { fields }]) =>
    z.object({ [key]: z.literal(id), ...more, with: z.object(schemaOf(fields)) }),
  );
  return z.discriminatedUnion(key, all as unknown as [z.ZodObject<Record<K, z.ZodLiteral<string>>>]);
}

const MOST = 20;

export const RuleSchema = z.object({
  kind: z.literal('early-sparrow-rule'),
  version: z.literal(1),
  name: z.string().min(1).max(200),
  match: z.enum(['all', 'any']),
  when: z.array(oneOf('is', RULE_CONDITIONS, { not: z.boolean().optional() })).max(MOST),
  every: z.int().min(1).max(64),
  then: z
    .array(oneOf('do', RULE_ACTIONS, {}))
    .min(1)
    .max(MOST),
  seed: z.int().min(0).max(0xffffffff),
}) as unknown as z.ZodType<Rule>;

/** A rule file that cannot be read; the message says what is wrong. */
export class RuleFileError extends Error {
  readonly code = 'rule-file';
}

export function ruleToJson(rule: Rule): string {
  return `${JSON.stringify(rule, null, 2)}\n`;
}

/** Reads a rule from JSON text. @throws RuleFileError */
export function ruleFromJson(text: string): Rule {
  const value = parseJson(text, 'rule', RuleFileError);
  const { kind, version } = (value ?? {}) as { kind?: unknown; version?: unknown };
  if (kind === 'early-sparrow-rule' && typeof version === 'number' && version > 1) {
    throw new RuleFileError('This rule was made by a newer version of Early Sparrow. Update, then import it again.');
  }
  return checkJson(value, RuleSchema, 'rule', RuleFileError);
}
