import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { isProblem, type Edit } from '@early-sparrow/core/edit';
import { applyRule, BUILT_IN_RULES, contradiction, type Rule, type RuleScope } from '@early-sparrow/core/rules';
import { counted } from '../../common/format';
import { Said } from '../../common/said';
import { Player } from '../../sound/player';
import { Selecting } from '../hand/selecting';
import { Shaping } from '../hand/shaping';
import { Treating } from '../hand/treating';
import { Feedback } from '../kit/feedback';
import { Panels } from '../kit/panels';
import { RULES } from '../kit/foot-strips';

/** Where a rule looks for its notes. */
export type Where = 'selection' | 'part' | 'track' | 'tracks';

/** The rule that is looked at: which notes it finds, what it would do, and doing it. */
@Injectable()
export class Ruling {
  private readonly treating = inject(Treating);
  private readonly selecting = inject(Selecting);
  private readonly shaping = inject(Shaping);
  private readonly player = inject(Player);
  private readonly panels = inject(Panels);
  private readonly feedback = inject(Feedback);
  private readonly said = inject(Said);
  readonly rule = signal<Rule>(BUILT_IN_RULES[0]);
  readonly where = signal<Where>('part');
  /** Whether the picture and the sound show what would become of the notes. */
  readonly previewing = signal(true);
  readonly open = computed(() => this.panels.isOpen(RULES));

  private readonly scope = computed((): RuleScope => {
    const where = this.where();
    const [part, track] = [this.treating.part(), this.treating.track()];
    const parts = where === 'part' ? (part ? [part] : []) : where === 'tracks' ? this.treating.parts() : track?.parts;
    const loop = this.player.loop();
    return {
      parts: parts?.map((p) => p.id) ?? [],
      side: this.player.shown(),
      only: where === 'selection' ? this.selecting.chosen() : null,
      loop: loop.to > loop.from ? loop : null,
      selected: this.selecting.chosen(),
    };
  });
  /** How many notes there are where the rule looks. */
  readonly among = computed(() => {
    const { parts, only } = this.scope();
    if (only) return only.size;
    const wanted = new Set(parts);
    const all = this.treating.song()?.tracks.flatMap((t) => t.parts) ?? [];
    return all.reduce((sum, p) => sum + (wanted.has(p.id) ? p.notes.length : 0), 0);
  });
  private readonly done = computed(() => {
    const song = this.open() ? this.treating.song() : null;
    return song ? applyRule(song, this.rule(), this.scope()) : null;
  });
  /** What it finds and does; null while it cannot be done. */
  readonly ruled = computed(() => {
    const done = this.done();
    return done && !isProblem(done) ? done : null;
  });
  /** Notes that it finds, by id. */
  readonly found = computed((): ReadonlySet<number> => new Set(this.ruled()?.ids));
  /** What is to be said beside the count; empty for nothing. */
  readonly remark = computed((): string => {
    const [rule, done, ruled] = [this.rule(), this.done(), this.ruled()];
    if (done && isProblem(done)) return done.problem;
    if (!ruled) return '';
    const never = contradiction(rule);
    if (never) return never;
    if (this.where() === 'selection' && this.selecting.count() === 0) return 'No notes are selected.';
    if (rule.when.some((c) => c.is === 'loop') && !this.scope().loop) {
      return 'There is no loop yet. Drag in the strip above the bars.';
    }
    if (ruled.empties) return 'Nothing would be left.';
    if (ruled.ids.length > 0 && !ruled.edit && !ruled.selects) return 'They are like that already.';
    return '';
  });
  /** Whether pressing Apply does anything. */
  readonly does = computed(() => {
    const ruled = this.ruled();
    return ruled !== null && ruled.ids.length > 0 && (ruled.edit !== null || ruled.selects);
  });

  /** What of it is being tried. */
  private shown: Edit | null = null;

  constructor() {
    effect(() => {
      const [ruled, rule, trying] = [this.ruled(), this.rule(), this.treating.trying()];
      const shows = this.open() && this.previewing() && ruled !== null;
      // Notes that would go are crossed out where they are: what has vanished cannot be looked at.
      const erases = rule.then.some((a) => a.do === 'erase');
      const wanted = shows && !erases ? ruled.edit : null;
      untracked(() => {
        if (this.open()) this.feedback.marked.set(shows && erases ? this.found() : new Set());
        // What something else tries, such as a drag, is not disturbed; when it is over this comes back.
        if ((trying !== null && trying !== this.shown) || wanted === trying) return;
        this.shown = wanted;
        if (wanted) this.shaping.show(wanted);
        else this.treating.endTrying();
      });
    });
    effect(() => {
      if (!this.open()) untracked(() => this.feedback.marked.set(new Set()));
    });
  }

  /** Another rule is looked at, or another version of it. */
  look(rule: Rule): void {
    this.rule.set(rule);
    this.previewing.set(true);
  }

  /** Does the rule as one step. What it selects becomes the selection. */
  apply(): void {
    const ruled = this.ruled();
    if (!ruled || !this.does()) return;
    const { ids, edit, selects } = ruled;
    const { name } = this.rule();
    // Looked at once more it would be done twice in the picture.
    this.previewing.set(false);
    this.treating.endTrying();
    if (edit && !this.shaping.make(edit, 'rule', {}, true)) return;
    if (selects) this.selecting.select(ids);
    this.said.say(`${name}: ${counted(ids.length, 'note')}.`);
  }
}
