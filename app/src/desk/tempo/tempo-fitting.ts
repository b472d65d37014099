import { computed, effect, inject, Injectable, signal, untracked, type OnDestroy } from '@angular/core';
import { Store } from '@ngrx/store';
import {
  beatsText,
  DEFAULT_CHANGES,
  onsetsOf,
  type BeatFit,
  type FitWishes,
  type Onset,
} from '@early-sparrow/core/beats';
import { tempoFitEdit } from '@early-sparrow/core/edit';
import { clickOn } from '@early-sparrow/core/sound';
import { tempoOf, type Song } from '@early-sparrow/core/song';
import { Player } from '../../sound/player';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';
import type { AnalysisApi } from '../../workers/analysis-api';
import { analysisWorker } from '../../workers/analysis-worker';
import { Cancelled, WorkerLink } from '../../workers/worker-link';
import { Panels } from '../kit/panels';

/** A beat that is dropped this near a note is the note, in ms. */
const SNAP_MS = 40;
/** A tap this near to a note means it, in ms. */
const TAP_WITHIN = 80;
/** Taps that tell a tempo. */
const ENOUGH_TAPS = 4;

/** Fits the song's tempo to playing without a click: what was found, what is wished, and the step that does it. */
@Injectable()
export class TempoFitting implements OnDestroy {
  private readonly store = inject(Store);
  private readonly edits = inject(Changes);
  private readonly player = inject(Player);
  private readonly opened = inject(Panels);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly link = new WorkerLink<AnalysisApi>(analysisWorker);
  private asked: AbortController | null = null;

  readonly open = signal(false);
  /** How far the search is, from 0 to 1; null when none runs. */
  readonly progress = signal<number | null>(null);
  readonly problem = signal('');
  readonly fit = signal<BeatFit | null>(null);
  readonly wishes = signal<FitWishes>({});
  /** How far the playing is brought to one tempo, from 0 to 1. */
  readonly steadiness = signal(0);
  readonly taps = signal<readonly number[]>([]);
  readonly changes = computed(() => this.wishes().changes ?? DEFAULT_CHANGES);

  private readonly onsets = computed((): readonly Onset[] => {
    const song = this.song();
    return this.open() && song
      ? onsetsOf(
          song.tracks.flatMap((t) => t.parts),
          song,
        )
      : [];
  });

  constructor() {
    effect(() => {
      if (this.open()) this.opened.open('tempo', () => this.close());
      else this.opened.closed('tempo');
    });
    // A reading is heard with the music before it is taken.
    effect(() => {
      const fit = this.fit();
      this.player.beats.set(fit && this.open() && this.heard() ? clickOn(fit.beats, fit) : null);
    });
    // Beats are told in the song's own time: another song, or another tempo, has others.
    effect(() => {
      void [this.song()?.tempo, this.song()?.name];
      untracked(() => this.close());
    });
  }

  /** Whether the beats that were found are heard as a click while the song plays. */
  readonly heard = signal(true);

  /** What the beats could be, in words; the one that is shown has the number of {@link reading}. */
  readonly readings = signal<readonly string[]>([]);
  readonly reading = signal(0);

  start(): void {
    if (this.open()) return;
    this.readings.set([]);
    this.open.set(true);
    this.wishes.set({});
    this.steadiness.set(0);
    this.taps.set([]);
    void this.find();
  }

  close(): void {
    this.asked?.abort();
    this.open.set(false);
    this.fit.set(null);
    this.progress.set(null);
    this.problem.set('');
  }

  /** Looks for other beats, such as those of half the tempo; what was set by hand is left. */
  search(hints: Pick<FitWishes, 'low' | 'high' | 'beats' | 'reading'>): void {
    const { perBar, changes } = this.wishes();
    this.wishes.set({ ...(perBar ? { perBar } : {}), ...(changes === undefined ? {} : { changes }), ...hints });
    void this.find();
  }

  /** Beats twice as fast or half as fast as those that were found. */
  octave(factor: number): void {
    const bpm = this.fit()?.bpm;
    if (bpm) this.search({ low: bpm * factor * 0.75, high: bpm * factor * 1.35 });
  }

  /** The same beats with other bars, another downbeat, more or fewer changes. */
  adjust(change: Pick<FitWishes, 'perBar' | 'downbeat' | 'anew' | 'changes'>): void {
    const fit = this.fit();
    if (!fit) return;
    const given = [...fit.beats];
    const { downbeat, anew } = fit;
    // With another number of beats a bar, which one it begins with is found anew.
    const keep = change.perBar === undefined ? { downbeat, anew } : {};
    this.wishes.update((w) => ({ ...w, given, perBar: fit.perBar, ...keep, ...change }));
    void this.find();
  }

  /** Puts a beat elsewhere; onto a note if one is near. @param ms time in the song as it is */
  moveBeat(index: number, ms: number): void {
    const fit = this.fit();
    if (!fit) return;
    const near = this.onsets().reduce<number | null>(
      (best, o) => (Math.abs(o.ms - ms) < Math.abs((best ?? Infinity) - ms) ? o.ms : best),
      null,
    );
    const at = near !== null && Math.abs(near - ms) <= SNAP_MS ? near : ms;
    const given = [...fit.beats];
    const [low, high] = [given[index - 1] ?? 0, given[index + 1] ?? Infinity];
    if (at <= low + 1 || at >= high - 1) return;
    given[index] = at;
    this.wishes.update((w) => ({ ...w, given, perBar: fit.perBar, downbeat: fit.downbeat, anew: fit.anew }));
    void this.find();
  }

  /**
   * A tap along with the music: it means what was heard when the key was pressed. Enough of them give the tempo and its beats.
   * @param at of the press, on the page's clock, in ms
   */
  tap(at: number): void {
    const song = this.song();
    if (!song || !this.player.playing()) {
      this.problem.set('Press Play first, then tap along with the beat.');
      return;
    }
    this.problem.set('');
    const ms = this.player.heardAt(at)?.ms ?? tempoOf(song).toMs(this.player.position());
    const taps = this.taps();
    // After a pause or a jump the taps begin anew.
    const next =
      taps.length > 0 && (ms - taps[taps.length - 1] > 3000 || ms < taps[taps.length - 1]) ? [ms] : [...taps, ms];
    this.taps.set(next);
    if (next.length < ENOUGH_TAPS) return;
    const gaps = next.slice(1).map((t, i) => t - next[i]);
    const bpm = 60_000 / gaps.sort((a, b) => a - b)[gaps.length >> 1];
    // Taps that hit no notes tell the tempo only.
    const hit = next.map((t) => this.onsetNear(t)).filter((t) => t !== null);
    const beats = hit.length > next.length / 2 ? hit : [];
    this.search({ low: bpm * 0.78, high: bpm * 1.28, beats });
  }

  /** Writes the tempo into the song: one step. */
  apply(): void {
    const fit = this.fit();
    if (!fit) return;
    const steady = this.steadiness();
    const name = steady > 0 ? `Steady the tempo, ${Math.round(steady * 100)} %` : 'Fit the tempo to the playing';
    const edit = tempoFitEdit(name, fit, steady);
    this.close();
    this.edits.make(edit, 'tempo');
  }

  ngOnDestroy(): void {
    this.asked?.abort();
    this.player.beats.set(null);
    this.link.end();
  }

  private onsetNear(ms: number): number | null {
    let best: number | null = null;
    for (const o of this.onsets()) {
      if (Math.abs(o.ms - ms) < Math.abs((best ?? ms + TAP_WITHIN) - ms)) best = o.ms;
    }
    return best;
  }

  private async find(): Promise<void> {
    const song = this.song();
    if (!song) return;
    this.asked?.abort();
    const asked = new AbortController();
    this.asked = asked;
    this.progress.set(0);
    this.problem.set('');
    try {
      const fit = await this.ask(song, asked);
      if (this.asked !== asked) return;
      this.fit.set(fit);
      // Beats that were moved by hand are still of the reading that they were moved in.
      if (fit && fit.readings.length > 0) {
        this.readings.set(fit.readings.map((r) => beatsText(r).replace(' ', '\u00a0')));
        this.reading.set(fit.reading);
      }
      if (!fit) this.problem.set('There are too few notes to find the beats.');
    } catch (error) {
      if (error instanceof Cancelled) return;
      this.problem.set('The beats could not be found. Close this and open it again to retry.');
    }
    if (this.asked === asked) this.progress.set(null);
  }

  private ask({ ppq, tempo, meter }: Song, { signal }: AbortController): Promise<BeatFit | null> {
    const told = (share: number) => this.progress.set(share);
    return this.link.ask((api, tell) => api.fit(this.onsets(), { ppq, tempo, meter }, this.wishes(), tell), {
      signal,
      told,
    });
  }
}
