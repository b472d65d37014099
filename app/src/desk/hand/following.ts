import { computed, inject, Injectable, signal, type OnDestroy } from '@angular/core';
import { Store } from '@ngrx/store';
import {
  followedBy,
  type FollowedLines,
  type Follower,
  type FollowSettings,
  type Song,
  type SongTimes,
} from '@early-sparrow/core/song';
import { DeskActions, deskFeature } from '../../state/desk.feature';
import type { AnalysisApi } from '../../workers/analysis-api';
import { analysisWorker } from '../../workers/analysis-worker';
import { WorkerLink } from '../../workers/worker-link';

/** The lines that follow a player could not be found. */
export class FollowingFault extends Error {}

/** What is known, by the chords' places; null while it is being found out. */
type Answers = WeakMap<Float64Array, Map<string, FollowedLines | null>>;

/**
 * Finds the lines that follow a player in a worker. Until they are there the nearest ones show; then all that was
 * computed without them is computed anew, once.
 */
@Injectable()
export class Following implements OnDestroy {
  private readonly store = inject(Store);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly link = new WorkerLink<AnalysisApi>(analysisWorker);
  private readonly answers: Answers = new WeakMap();
  private readonly asked = signal(0);
  /** Whether lines are being found. */
  readonly busy = computed(() => this.asked() > 0);
  /** Questions that were raised and have no answer yet: one raised in a computation counts at once. */
  private open = 0;
  private follower: Follower = () => null;
  private failed: (() => void)[] = [];
  private waiting: (() => void)[] = [];

  constructor() {
    this.tell();
  }

  /**
   * What a computation over a song gives once every line that it asks for is known.
   * @throws FollowingFault where they cannot be found: the nearest ones stand in for them nowhere but on the screen
   */
  async whole<T>(song: Song, compute: (song: Song) => T): Promise<T> {
    // What could not be found before is asked for once more.
    const again = this.failed.splice(0);
    for (const ask of again) ask();
    if (again.length > 0) this.tell();
    let result = compute(followedBy(song, this.follower));
    while (this.open > 0) {
      await new Promise<void>((done) => this.waiting.push(done));
      result = compute(followedBy(song, this.follower));
    }
    if (this.failed.length > 0) throw new FollowingFault();
    return result;
  }

  ngOnDestroy(): void {
    this.link.end();
    this.store.dispatch(DeskActions.followBy({ follower: undefined }));
  }

  /**
   * How many chords would take other lines if the player was followed; null while it is being found out.
   * @param line the chords' lines now
   */
  changes(place: Float64Array, line: Float64Array, settings: FollowSettings): number | null {
    this.asked();
    const followed = this.lines(place, settings);
    return followed && followed.line.reduce((n, l, c) => n + (l === line[c] ? 0 : 1), 0);
  }

  /** Has everything that waits for lines ask again: a follower that is another one says what is known now. */
  private tell(): void {
    this.follower = (place, settings) => this.lines(place, settings);
    this.store.dispatch(DeskActions.followBy({ follower: this.follower }));
  }

  private lines(place: Float64Array, settings: FollowSettings): FollowedLines | null {
    const { grid, groove, reference, lagTaken = false } = settings;
    const key = JSON.stringify([grid, groove, lagTaken]);
    let known = this.answers.get(place);
    if (!known) this.answers.set(place, (known = new Map()));
    const answer = known.get(key);
    if (answer !== undefined) return answer;
    const song = this.song();
    if (!song) return null;
    known.set(key, null);
    this.open++;
    const { ppq, tempo, meter } = song;
    // Asked for in the middle of a computation, which no signal may be set from.
    queueMicrotask(
      () => void this.find(place, { ppq, tempo, meter }, { grid, groove, reference, lagTaken }, known, key),
    );
    return null;
  }

  private async find(
    place: Float64Array,
    time: SongTimes,
    settings: FollowSettings,
    known: Map<string, FollowedLines | null>,
    key: string,
  ): Promise<void> {
    this.asked.update((n) => n + 1);
    try {
      known.set(key, await this.link.ask((api, told) => api.follow(place, time, settings, told)));
    } catch {
      // Without the worker the nearest lines are shown; a file is not written with them.
      this.failed.push(() => known.delete(key));
    }
    this.open--;
    this.asked.update((n) => n - 1);
    this.tell();
    for (const done of this.waiting.splice(0)) done();
  }
}
