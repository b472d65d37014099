import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { isProblem, type Edit, type EditProblem } from '@early-sparrow/core/edit';
import type { Part, Song } from '@early-sparrow/core/song';
import {
  bestTakesEdit,
  compareTakes,
  compiledTake,
  origins,
  playedTakes,
  proposeTakes,
  swapEdit,
  BEST,
  type Choice,
  type TakeTable,
} from '@early-sparrow/core/takes';
import { unhurried } from '../../common/unhurried';
import { Player } from '../../sound/player';
import { Changes } from '../../state/changes';
import { DeskActions } from '../../state/desk.feature';
import { Analyst } from '../fits/analyst';
import { Treating } from '../hand/treating';
import { sectionName } from './take-words';

/** A part's takes as they compare. */
interface Comparing {
  readonly song: Song;
  readonly part: Part;
  /** Bars in a section. */
  readonly bars: number;
}

/** The current part's takes, compared bar by bar; the best of them put together, or single bars by hand. */
@Injectable()
export class BestTakes {
  private readonly store = inject(Store);
  private readonly treating = inject(Treating);
  private readonly analyst = inject(Analyst);
  private readonly changes = inject(Changes);
  private readonly player = inject(Player);
  readonly bars = signal(1);

  private readonly compared = unhurried(
    (): Comparing | null => {
      const of = this.treating.rested();
      return of && { song: of.song, part: this.withLines(of.part), bars: this.bars() };
    },
    ({ song, part, bars }) => compareTakes(part, playedTakes(part), song, bars),
  );
  /** How many takes there are, and how many of them have notes. */
  readonly counts = computed(() => {
    const part = this.treating.part();
    const takes = part ? playedTakes(part) : [];
    return { takes: takes.length, played: takes.filter((t) => t.content.notes.length > 0).length };
  });
  readonly table = computed((): TakeTable | null => (this.counts().played > 1 ? this.compared() : null));
  readonly choices = computed((): readonly Choice[] => {
    const table = this.table();
    return table ? proposeTakes(table) : [];
  });
  /** From which take each section of the current take is; null where it was changed by hand. */
  readonly used = computed((): readonly (number | null)[] => {
    const [table, part] = [this.table(), this.treating.part()];
    return table && part ? origins(table, compiledTake(part) ?? part) : [];
  });
  /** Whether the part plays what was put together. */
  readonly compiled = computed(() => this.treating.part()?.takes?.chosen.compiled === true);
  /** Whether one was put together, but another take is chosen. */
  readonly otherPlays = computed(() => {
    const part = this.treating.part();
    return part !== null && !this.compiled() && compiledTake(part) !== null;
  });
  /** Whether what is proposed is what is there. */
  readonly done = computed(
    () => this.compiled() && this.choices().every(({ take }, s) => take === null || this.used()[s] === take),
  );

  /** Puts the best sections together, as a take of its own: one step. */
  propose(): void {
    const [song, part, table] = [this.treating.song(), this.treating.part(), this.table()];
    if (!song || !part || !table) return;
    const takes = this.choices().map((c) => c.take);
    this.make(bestTakesEdit(song, part.id, table, takes, BEST));
  }

  /** Uses a take for a section. */
  use(section: number, take: number): void {
    this.make(this.swap(section, take));
  }

  /** Shows and sounds a take in a section, from a bar before it to a bar after, until {@link endHearing}. */
  hear(section: number, take: number): void {
    const edit = this.swap(section, take);
    if (edit && !isProblem(edit)) this.store.dispatch(DeskActions.preview({ edit }));
    this.listenTo(section);
  }

  endHearing(): void {
    this.treating.endTrying();
    if (this.back === null) return;
    this.player.pause();
    this.player.seek(this.back);
    this.back = null;
  }

  /** Where the playhead was before a section was listened to; null while none is, or where the song played already. */
  private back: number | null = null;

  private listenTo(section: number): void {
    const sections = this.table()?.sections ?? [];
    if (this.player.playing() || !(section in sections)) return;
    const loop = this.player.loop();
    const inLoop = (tick: number) =>
      this.player.loopOn() && loop.to > loop.from ? Math.max(loop.from, Math.min(loop.to - 1, tick)) : tick;
    const { from, to } = sections[section];
    this.back = this.player.position();
    void this.player.playOnly(null, {
      from: inLoop(sections.at(Math.max(0, section - 1))?.from ?? from),
      to: inLoop(sections.at(Math.min(sections.length - 1, section + 1))?.to ?? to),
    });
  }

  private swap(section: number, take: number): Edit | EditProblem | null {
    const [song, part, table] = [this.treating.song(), this.treating.part(), this.table()];
    if (!song || !part || !table) return null;
    const name = `${sectionName(table.sections[section])} from ${table.takes[take].name}`;
    return swapEdit(song, part.id, table, section, take, name);
  }

  private make(edit: Edit | EditProblem | null): void {
    if (edit) this.changes.make(edit, 'take');
  }

  /** The part with the lines to compare against: its own while its starts are put on lines, else those that fit. */
  private withLines(part: Part): Part {
    const { treatment } = part;
    const fit = this.analyst.ofPart(part)?.fits.at(0);
    if (treatment.quantize.on || !fit) return part;
    return { ...part, treatment: { ...treatment, quantize: { ...treatment.quantize, groove: null, grid: fit.grid } } };
  }
}
