import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { ScannedActionsSubject, Store, type Action } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import type { Song } from '@early-sparrow/core/song';
import { Batch, type Row } from '../src/batch/batch';
import { Hearing } from '../src/batch/hearing';
import { Player } from '../src/sound/player';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { base } from './kept';
import { provideDeskStore } from './store';

/** A player without sound, which is told when the song is over. */
class SilentPlayer {
  readonly playing = signal(false);
  readonly position = signal(0);
  starts = true;
  plays = 0;
  async play(): Promise<void> {
    this.plays++;
    this.playing.set(this.starts);
  }
  pause(): void {
    this.playing.set(false);
  }
  reset(): void {
    this.playing.set(false);
  }
}

describe('a file that is listened to among many', () => {
  const row: Row = { id: 1, file: new File([], 'Take.mid'), state: 'waiting' };
  let hearing: Hearing;
  let player: SilentPlayer;
  let store: Store;
  /** Answers the question for the song that was asked first. */
  let made: ((song: Song | null) => void)[];
  let dispatched: Action[];
  const opened = () => dispatched.filter(({ type }) => type === DeskActions.opened.type).length;

  beforeEach(() => {
    made = [];
    player = new SilentPlayer();
    const batch = { song: () => new Promise<Song | null>((done) => made.push(done)) };
    TestBed.configureTestingModule({
      providers: [
        provideDeskStore(),
        Hearing,
        { provide: Batch, useValue: batch },
        { provide: Player, useValue: player },
      ],
    });
    store = TestBed.inject(Store);
    dispatched = [];
    TestBed.inject(ScannedActionsSubject).subscribe((action) => dispatched.push(action));
    hearing = TestBed.inject(Hearing);
  });

  it('opens nothing where the page was left before its song was made: another may be open by then', async () => {
    const heard = hearing.toggle(row, 'played');
    hearing.ngOnDestroy();
    store.dispatch(DeskActions.opened({ songId: 'another', history: startHistory(base) }));
    made[0](base);
    await heard;
    expect(store.selectSignal(deskFeature.selectSongId)()).toBe('another');
    expect(player.plays).toBe(0);
  });

  it('is heard once, on the side that was pressed last', async () => {
    const [first, second] = [hearing.toggle(row, 'played'), hearing.toggle(row, 'corrected')];
    for (const done of made) done(base);
    await Promise.all([first, second]);
    expect([opened(), player.plays]).toEqual([1, 1]);
    expect(store.selectSignal(deskFeature.selectCompare)()).toBe('corrected');
    // The other side goes on where this one is.
    await hearing.toggle(row, 'played');
    expect([opened(), player.plays, player.playing()]).toEqual([1, 1, true]);
    expect(store.selectSignal(deskFeature.selectCompare)()).toBe('played');
  });

  it('is told to sound as long as it does: until its end, or not at all', async () => {
    const hear = async (song: Song | null) => {
      const heard = hearing.toggle(row, 'played');
      made.splice(0).forEach((done) => done(song));
      const could = await heard;
      TestBed.tick();
      return could;
    };
    expect(await hear(null)).toBe(false);
    expect(hearing.what()).toBeNull();
    expect(await hear(base)).toBe(true);
    expect(hearing.what()).toEqual({ id: 1, side: 'played' });
    player.playing.set(false);
    TestBed.tick();
    expect(hearing.what()).toBeNull();
    player.starts = false;
    await hear(base);
    expect(hearing.what()).toBeNull();
  });
});
