import { inject, Injectable } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store, type Action } from '@ngrx/store';
import {
  catchError,
  concatMap,
  debounceTime,
  distinctUntilChanged,
  EMPTY,
  exhaustMap,
  filter,
  from,
  map,
  mergeMap,
  Observable,
  of,
  scan,
  switchMap,
  tap,
} from 'rxjs';
import { carryOut, isProblem, type Deed, type History } from '@early-sparrow/core/edit';
import { followedBy, type Follower, type Song } from '@early-sparrow/core/song';
import { Said } from '../common/said';
import { FileStore } from '../storage/file-store';
import { SongStore } from '../storage/song-store';
import { SongWriter } from '../storage/song-writer';
import { WriterLock } from '../storage/writer-lock';
import { DeskActions, deskFeature, type Role } from './desk.feature';
import { HandingOver } from './handing-over';

/** The list is told of a change once nothing more has changed for so many ms. */
const IDLE_MS = 700;

/** A song as it is, and as it was opened. */
interface Told {
  readonly songId: string | null;
  readonly song: Song | undefined;
  readonly follower: Follower | undefined;
  readonly opened: Song | undefined;
}

/** What this tab holds of the open song: the right to write it, and who writes its steps. */
interface Held {
  readonly songId: string;
  readonly lock: WriterLock;
  writer: SongWriter;
}

/**
 * Opens and closes songs, writes their steps as soon as they are done, and follows a song that another tab writes.
 * Everything between the open song and what is kept of it goes through here; analysis and playback read the store and
 * never write to it.
 */
@Injectable()
export class KeepingEffects {
  private readonly actions = inject(Actions);
  private readonly store = inject(Store);
  private readonly songs = inject(SongStore);
  private readonly files = inject(FileStore);
  private readonly said = inject(Said);
  private readonly handingOver = inject(HandingOver);
  private readonly state$ = this.store.select(deskFeature.selectDeskState);
  private readonly state = this.store.selectSignal(deskFeature.selectDeskState);
  private held: Held | null = null;
  /** Counts openings, so that one that was overtaken notices. */
  private openings = 0;

  readonly open = createEffect(() =>
    this.actions.pipe(
      ofType(DeskActions.open, DeskActions.close),
      switchMap((action) => {
        const left = this.leave();
        return action.type === DeskActions.close.type
          ? EMPTY
          : from(left.then(() => this.openSong(action.songId))).pipe(filter((a) => a !== null));
      }),
    ),
  );

  /** Each thing that is done goes to the writer at once. */
  readonly write = createEffect(
    () =>
      this.state$.pipe(
        distinctUntilChanged((a, b) => a.deed === b.deed),
        tap(({ songId, deed, history }) => {
          if (deed && history && this.held?.songId === songId) this.held?.writer.add(deed, history);
        }),
      ),
    { dispatch: false },
  );

  /** Says why an edit was not done. */
  readonly tellRefused = createEffect(
    () =>
      this.store.select(deskFeature.selectRefused).pipe(
        filter((refused) => refused !== null),
        tap(({ problem }) => this.said.say(problem)),
      ),
    { dispatch: false },
  );

  /** A tab that reads goes along with what the writer does. */
  readonly follow = createEffect(() =>
    this.store.select(deskFeature.selectDeskState).pipe(
      // Steps that are here alone would be lost to what the other tab has.
      map(({ songId, role, writing }) => (role === 'reader' && writing.trouble === null ? songId : null)),
      distinctUntilChanged(),
      switchMap((songId) => (songId === null ? EMPTY : this.followed(songId))),
    ),
  );

  readonly takeOver = createEffect(() =>
    this.actions.pipe(
      ofType(DeskActions.takeOver),
      concatMap(async (): Promise<readonly Action[]> => {
        const { held } = this;
        if (!held || !(await held.lock.takeOver())) return [];
        // What the other tab wrote last is read before anything is added to it.
        const kept = await this.songs.open(held.songId, true).catch(() => undefined);
        // A song that was deleted meanwhile is here alone: it is not given up.
        if (!kept && this.state().history) return [DeskActions.roleChanged({ role: 'writer' }), GONE];
        const action = await this.read(held.songId, 'writer');
        return action ? [action] : [];
      }),
      mergeMap((actions) => actions),
    ),
  );

  readonly keepAgain = createEffect(() =>
    this.actions.pipe(
      ofType(DeskActions.keepAgain),
      concatMap(async (): Promise<readonly Action[]> => {
        const { held } = this;
        if (!held) return [];
        try {
          if (!held.lock.isHeld) await held.lock.takeOver();
          // The song and the number of its last step are of one moment: steps that come while it is written wait.
          const { songId, history } = this.state();
          const { writer } = held;
          const n = writer.last;
          if (!songId || !history) return [];
          await this.songs.put(songId, { history, n, damage: null });
          await this.files.keepAgain(songId, songId);
          writer.keptUpTo(n);
          return this.state().role === 'reader' ? [DeskActions.roleChanged({ role: 'writer' })] : [];
        } catch {
          this.said.say('The browser refused to save the song. Free some space, or export it as a MIDI file.');
          return [];
        }
      }),
      mergeMap((actions) => actions),
    ),
  );

  /** Keeps the list of songs up to date, once nothing has changed for a moment and when the song is left. */
  readonly describe = createEffect(
    () =>
      this.state$.pipe(
        filter(({ role }) => role === 'writer'),
        map(({ songId, history, follower }) => ({ songId, song: history?.song, follower })),
        distinctUntilChanged((a, b) => a.songId === b.songId && a.song === b.song && a.follower === b.follower),
        // As it was opened the list knows it already.
        scan((told, now) => ({ ...now, opened: told.songId === now.songId ? told.opened : now.song }), {
          songId: null,
          song: undefined,
          follower: undefined,
          opened: undefined,
        } as Told),
        debounceTime(IDLE_MS),
        concatMap(async ({ songId, song, follower, opened }) => {
          if (!songId || !song || song === opened) return;
          // The list shows an older picture of the song then; the song itself is written apart from this.
          await this.songs.describe(songId, follower ? followedBy(song, follower) : song).catch(() => undefined);
        }),
      ),
    { dispatch: false },
  );

  /** Keeps the song as it is here as one of its own. */
  readonly keepCopy = createEffect(
    () =>
      this.actions.pipe(
        ofType(DeskActions.keepCopy),
        // Asked for again while it is on its way, it is one.
        exhaustMap(async () => {
          const { songId, history } = this.state();
          if (!songId || !history) return;
          try {
            await this.files.keepAgain(songId, await this.songs.copy(songId, history.song));
            this.said.say('A copy was saved among your songs.');
          } catch {
            this.said.say('The browser refused to save a copy. Free some space, or export it as a MIDI file.');
          }
        }),
      ),
    { dispatch: false },
  );

  private async leave(): Promise<void> {
    const { held } = this;
    this.held = null;
    this.openings++;
    if (!held) return;
    await held.writer.close();
    held.lock.release();
  }

  private async openSong(songId: string): Promise<Action | null> {
    const opening = this.openings;
    const lock = new WriterLock(songId);
    const role: Role = (await lock.take()) ? 'writer' : 'reader';
    if (opening !== this.openings) {
      lock.release();
      return null;
    }
    this.held = { songId, lock, writer: this.writer(songId, 0) };
    lock.onAsked = () => {
      this.handingOver.endAll();
      return this.held?.writer.flush() ?? Promise.resolve();
    };
    lock.onLost = () => {
      this.held?.writer.stop();
      this.store.dispatch(DeskActions.roleChanged({ role: 'reader' }));
    };
    return this.read(songId, role);
  }

  private writer(songId: string, n: number): SongWriter {
    const told = (state: Parameters<ConstructorParameters<typeof SongWriter>[3]>[0]) =>
      this.store.dispatch(DeskActions.writing({ state }));
    return new SongWriter(this.songs.journal, songId, n, told);
  }

  private async read(songId: string, role: Role): Promise<Action | null> {
    try {
      const kept = await this.songs.open(songId, role === 'writer');
      // Another song was asked for in the meantime.
      if (this.held?.songId !== songId) return null;
      if (!kept) {
        const problem = 'This song is not in this browser. It may have been deleted, or saved in another browser.';
        return DeskActions.openFailed({ songId, problem });
      }
      this.held.writer = this.writer(songId, kept.n);
      // What cannot be swept stays: it takes room, nothing else.
      if (role === 'writer') void this.files.sweep(songId, kept.history).catch(() => undefined);
      const damage = kept.damage && damageText(kept.damage);
      return DeskActions.opened({ songId, history: kept.history, role, damage });
    } catch (error) {
      const reason = error instanceof Error ? error.message : 'unknown reason';
      return DeskActions.openFailed({
        songId,
        problem: `This song cannot be read: ${reason}. Nothing of it was changed.`,
      });
    }
  }

  /** What the writer of a song does, as it comes. */
  private followed(songId: string): Observable<Action> {
    let at = this.held?.writer.last ?? 0;
    const steps$ = new Observable<number | undefined>((observer) => {
      const subscription = this.songs.lastStep$(songId).subscribe(observer);
      return () => subscription.unsubscribe();
    });
    return steps$.pipe(
      filter((last) => last !== at),
      concatMap(async (last): Promise<Action | null> => {
        if (last === undefined) return GONE;
        // As it is now: a step that came while the one before was read is followed from there.
        const { history } = this.state();
        const steps = history && (await this.songs.journal.since(songId, at));
        const next = steps && replayed(history, steps);
        if (next) {
          at += steps.length;
          return DeskActions.followed({ history: next });
        }
        const kept = await this.songs.open(songId, false);
        at = kept?.n ?? at;
        return kept ? DeskActions.followed({ history: kept.history }) : null;
      }),
      filter((action) => action !== null),
      catchError(() => of(GONE)),
    );
  }
}

/** The song is not kept any more. */
const GONE = DeskActions.writing({ state: { unsaved: 0, trouble: 'gone' } });

/** A history after some steps; null where they do not fit. */
function replayed(history: History, deeds: readonly Deed[]): History | null {
  let now: History = history;
  for (const deed of deeds) {
    const after = carryOut(now, deed);
    if (isProblem(after)) return null;
    now = after;
  }
  return deeds.length > 0 ? now : null;
}

function damageText({ steps, reason }: { readonly steps: number; readonly reason: string }): string {
  const those = steps === 1 ? 'The last step could' : `The last ${steps} steps could`;
  return `${those} not be read (${reason.replace(/\.$/, '')}). The song is as it was before them; the damaged steps are kept.`;
}
