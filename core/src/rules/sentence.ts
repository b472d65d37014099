import { RULE_ACTIONS, type ActionKind } from './actions';
import { RULE_CONDITIONS, type ConditionKind } from './conditions';
import type { Action, Condition, Rule } from './rule';

/** A condition's kind, for fields that were checked by the rule's schema. */
export function conditionKind({ is }: Pick<Condition, 'is'>): ConditionKind {
  return RULE_CONDITIONS[is] as unknown as ConditionKind;
}

/** An action's kind, likewise. */
export function actionKind({ do: id }: Pick<Action, 'do'>): ActionKind {
  return RULE_ACTIONS[id] as unknown as ActionKind;
}

export function sayCondition(condition: Condition): string {
  const words = conditionKind(condition).words(condition.with as never);
  return condition.not ? `not ${words}` : words;
}

export function sayAction(action: Action): string {
  return actionKind(action).words(action.with as never);
}

/** `2nd`, `3rd`, `11th`. */
export function ordinal(n: number): string {
  const teen = Math.floor((n % 100) / 10) === 1;
  return `${n}${teen ? 'th' : (['th', 'st', 'nd', 'rd'][n % 10] ?? 'th')}`;
}

/** A rule as a sentence: `Notes on the beat and of the hats: raise the velocity by 12, then mute them.` */
export function sayRule({ match, when, every, then }: Pick<Rule, 'match' | 'when' | 'every' | 'then'>): string {
  const notes =
    when.length === 0 ? 'All notes' : `Notes ${when.map(sayCondition).join(match === 'all' ? ' and ' : ' or ')}`;
  const some = every > 1 ? `, every ${ordinal(every)} of them` : '';
  return `${notes}${some}: ${then.map(sayAction).join(', then ')}.`;
}
