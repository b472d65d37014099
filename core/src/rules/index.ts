export { RULE_ACTIONS, type ActionId } from './actions';
export { applyRule, findByRule, type Ruled, type RuleScope } from './apply';
export { BUILT_IN_RULES, newAction, newCondition } from './built-in';
export { chordRoot } from './chord';
export { RULE_CONDITIONS, type ConditionId } from './conditions';
export { contradiction } from './contradiction';
export type { Field } from './field';
export {
  RuleFileError,
  ruleFromJson,
  RuleSchema,
  ruleToJson,
  type Action,
  type Condition,
  type FieldValues,
  type Rule,
} from './rule';
export { actionKind, conditionKind, ordinal, sayAction, sayCondition, sayRule } from './sentence';
