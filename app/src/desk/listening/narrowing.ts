import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { Store } from '@ngrx/store';
import { lineTicks } from '@early-sparrow/core/sound';
import { factsOf } from '@early-sparrow/core/treatment';
import { ListeningSettings } from '../../sound/listening-settings';
import { Player } from '../../sound/player';
import { deskFeature } from '../../state/desk.feature';
import { Looping } from './looping';

/** Which notes are heard: all, or of the current part those that a change is about. */
export type Narrow = 'all' | 'selected' | 'moved' | 'exceptions';

/** Hears a part of what there is: some notes alone, and ticks where notes were meant. */
@Injectable()
export class Narrowing {
  private readonly store = inject(Store);
  private readonly player = inject(Player);
  private readonly looping = inject(Looping);
  private readonly listening = inject(ListeningSettings);
  private readonly song = this.store.selectSignal(deskFeature.selectShownSong);
  private readonly part = this.store.selectSignal(deskFeature.selectShownPart);
  private readonly selection = this.store.selectSignal(deskFeature.selectSelection);

  readonly choice = signal<Narrow>('all');

  private readonly facts = computed(() => {
    const [song, part] = [this.song(), this.part()];
    return song && part ? factsOf(part, song) : null;
  });

  readonly ids = computed((): ReadonlySet<number> | null => {
    const part = this.part();
    const facts = this.facts();
    const choice = this.choice();
    if (choice === 'all' || !part || !facts) return null;
    const selected = new Set(this.selection());
    const notes = part.notes.filter((n, i) => {
      if (choice === 'selected') return selected.has(n.id);
      return choice === 'moved' ? facts.now[i] !== facts.played[i] : n.exception !== undefined;
    });
    return new Set(notes.map((n) => n.id));
  });

  constructor() {
    effect(() => {
      const ids = this.ids();
      untracked(() => this.player.only.set(ids));
    });
    effect(() => {
      // Nobody hears them else: a slider that moves would make them anew.
      if (!this.listening.values().lineTicks) return;
      const [song, facts] = [this.song(), this.facts()];
      if (song && facts) this.player.lines.set(lineTicks(facts.line, song));
    });
  }

  /** Plays on from the first selected note. */
  fromSelection(): void {
    const span = this.looping.selectedSpan();
    if (!span) return;
    this.player.seek(span.from);
    if (!this.player.playing()) void this.player.play();
  }

  /** Plays the selected notes and nothing else, once. */
  selectionAlone(): void {
    const span = this.looping.selectedSpan();
    if (span) void this.player.playOnly(new Set(this.selection()), span);
  }
}
