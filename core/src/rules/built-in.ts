import type { ActionId } from './actions';
import type { ConditionId } from './conditions';
import { freshOf } from './field';
import type { Action, Condition, FieldValues, Rule } from './rule';
import { actionKind, conditionKind } from './sentence';

/** A condition of a kind; what is left out of its values is fresh. */
export function newCondition(is: ConditionId, values: FieldValues = {}): Condition {
  return { is, with: { ...freshOf(conditionKind({ is }).fields), ...values } };
}

/** An action of a kind, likewise. */
export function newAction(id: ActionId, values: FieldValues = {}): Action {
  return { do: id, with: { ...freshOf(actionKind({ do: id }).fields), ...values } };
}

function rule(name: string, when: readonly Condition[], then: readonly Action[], more: Partial<Rule> = {}): Rule {
  return { kind: 'early-sparrow-rule', version: 1, name, match: 'all', when, every: 1, then, seed: 1, ...more };
}

const is = newCondition;
const does = newAction;

/** Rules for usual tasks, with names of our own. */
export const BUILT_IN_RULES: readonly Rule[] = [
  rule('Lean on the beat', [is('beat')], [does('velocity-add', { by: 12 })]),
  rule('Ease the off-beats', [is('off-beat')], [does('velocity-scale', { to: 85 })]),
  rule('Backbeat up', [is('backbeat')], [does('velocity-add', { by: 15 })]),
  rule('Many hands', [], [does('velocity-random', { low: 62, high: 100 })]),
  rule('Even hands', [], [does('velocity-even', { left: 50 })]),
  rule('Ghosts out', [is('velocity', { low: 1, high: 25 })], [does('erase')]),
  rule('Blips out', [is('shorter', { than: 25 })], [does('erase')]),
  rule('Hats forward', [is('drum', { which: 'hats' })], [does('nudge-ticks', { by: -4 })]),
  rule('Hats back', [is('drum', { which: 'hats' })], [does('nudge-ticks', { by: 4 })]),
  rule('Shaken drawer', [], [does('pitch-random', { low: 36, high: 51 })]),
  rule('Half time', [], [does('stretch', { to: 200 })]),
  rule('Double time', [], [does('stretch', { to: 50 })]),
  rule('Bottom note up', [is('chord', { of: 3 }), is('lowest')], [does('transpose', { by: 12 })]),
  rule('Top note down', [is('chord', { of: 3 }), is('highest')], [does('transpose', { by: -12 })]),
  rule('Seventh on top', [is('chord', { of: 3 })], [does('interval', { up: 10 })]),
  rule('Take the beats', [is('beat')], [does('select')]),
  rule('Take the loop', [is('loop')], [does('select')]),
  rule('Every other one out', [], [does('mute')], { every: 2 }),
  rule('Stragglers home', [is('late', { by: 25 })], [does('quantize', { strength: 100 })]),
  rule('Clipped', [is('longer', { than: 200 })], [does('length-scale', { to: 60 })]),
];
