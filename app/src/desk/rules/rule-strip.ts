import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import {
  actionKind,
  conditionKind,
  newAction,
  newCondition,
  ordinal,
  RULE_ACTIONS,
  RULE_CONDITIONS,
  sayRule,
  type Action,
  type ActionId,
  type Condition,
  type ConditionId,
  type Field,
  type FieldValues,
  type Rule,
} from '@early-sparrow/core/rules';
import { counted } from '../../common/format';
import type { Option } from '../../common/option';
import { PickOne } from '../../common/pick-one';
import { Selecting } from '../hand/selecting';
import { Treating } from '../hand/treating';
import { Panels } from '../kit/panels';
import { RULES } from '../kit/foot-strips';
import { FieldInput } from './field-input';
import { RuleShelf } from './rule-shelf';
import { Ruling, type Where } from './ruling';

/** A condition or an action with its fields, as they are shown. */
interface Row {
  readonly id: string;
  readonly not: boolean;
  readonly label: string;
  readonly fields: readonly {
    readonly key: string;
    readonly field: Field;
    readonly value: number | string;
    /** It is the upper bound of what stands before it. */
    readonly joined: boolean;
  }[];
}

/** A rule as chips: which notes, and what is done to them, counted and shown before anything changes. */
@Component({
  selector: 'es-rule-strip',
  imports: [FieldInput, PickOne, RuleShelf],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './rule-strip.html',
  styleUrls: ['../shape/strips.scss', './rule-strip.scss'],
})
export class RuleStrip {
  protected readonly panels = inject(Panels);
  protected readonly ruling = inject(Ruling);
  private readonly selecting = inject(Selecting);
  private readonly treating = inject(Treating);
  protected readonly name = RULES;
  protected readonly rule = this.ruling.rule;
  protected readonly sentence = computed(() => sayRule(this.rule()));
  protected readonly conditionOptions: readonly Option[] = options(RULE_CONDITIONS);
  protected readonly actionOptions: readonly Option[] = options(RULE_ACTIONS);
  protected readonly conditions = computed(() =>
    this.rule().when.map((c, i): Row =>
      row(c.is, c.not === true, `Condition ${i + 1}`, conditionKind(c).fields, c.with),
    ),
  );
  protected readonly actions = computed(() =>
    this.rule().then.map((a, i): Row => row(a.do, false, `Action ${i + 1}`, actionKind(a).fields, a.with)),
  );
  protected readonly everies: readonly Option[] = Array.from({ length: 16 }, (_, i) => ({
    value: String(i + 1),
    text: i === 0 ? 'all of them' : `every ${ordinal(i + 1)} of them`,
  }));
  protected readonly isRandom = computed(() => this.rule().then.some((a) => a.do.endsWith('-random')));
  protected readonly places = computed((): readonly Option[] => {
    const several = this.treating.parts().length > 1;
    return [
      { value: 'selection', text: `the selected notes (${this.selecting.count()})` },
      { value: 'part', text: 'this part' },
      { value: 'track', text: 'this track' },
      ...(several ? [{ value: 'tracks', text: 'all chosen tracks' }] : []),
    ];
  });
  protected readonly count = computed(() => this.ruling.ruled()?.ids.length ?? 0);
  protected readonly told = computed(() => `${this.count()} of ${counted(this.ruling.among(), 'note')}.`);
  protected readonly press = computed(() => {
    const notes = counted(this.count(), 'note');
    return this.ruling.ruled()?.empties ? `Apply to all ${notes}` : `Apply to ${notes}`;
  });

  protected goTo(where: string): void {
    this.ruling.where.set(where as Where);
    this.ruling.previewing.set(true);
  }

  protected change(change: Partial<Rule>): void {
    this.ruling.look({ ...this.rule(), ...change });
  }

  protected addCondition(): void {
    this.change({ when: [...this.rule().when, newCondition('beat')] });
  }

  protected setCondition(index: number, change: Partial<Condition> | string): void {
    const fresh = typeof change === 'string' ? newCondition(change as ConditionId) : change;
    this.change({ when: this.rule().when.map((c, i) => (i === index ? { ...c, ...fresh } : c)) });
  }

  protected setConditionField(index: number, key: string, value: number | string): void {
    this.setCondition(index, { with: { ...this.rule().when[index].with, [key]: value } });
  }

  protected dropCondition(index: number): void {
    this.change({ when: this.rule().when.filter((_, i) => i !== index) });
  }

  protected addAction(): void {
    this.change({ then: [...this.rule().then, newAction('velocity-add')] });
  }

  protected setAction(index: number, change: Partial<Action> | string): void {
    const fresh = typeof change === 'string' ? newAction(change as ActionId) : change;
    this.change({ then: this.rule().then.map((a, i) => (i === index ? { ...a, ...fresh } : a)) });
  }

  protected setActionField(index: number, key: string, value: number | string): void {
    this.setAction(index, { with: { ...this.rule().then[index].with, [key]: value } });
  }

  protected dropAction(index: number): void {
    this.change({ then: this.rule().then.filter((_, i) => i !== index) });
  }

  protected reroll(): void {
    this.change({ seed: (this.rule().seed + 1) % 0x100000000 });
  }
}

function options(kinds: Readonly<Record<string, { readonly name: string }>>): Option[] {
  return Object.entries(kinds).map(([value, { name }]) => ({ value, text: name }));
}

function row(
  id: string,
  not: boolean,
  label: string,
  fields: Readonly<Record<string, Field>>,
  values: FieldValues,
): Row {
  return {
    id,
    not,
    label,
    fields: Object.entries(fields).map(([key, field], i) => ({
      key,
      field,
      value: values[key],
      joined: i > 0 && (key === 'high' || key === 'to'),
    })),
  };
}
