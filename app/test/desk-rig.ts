import { computed, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import { analysePart, type Analysis } from '@early-sparrow/core/insight';
import type { Song, Treatment } from '@early-sparrow/core/song';
import { treatPart } from '@early-sparrow/core/treatment';
import { part } from '../../core/test/build';
import { Analyst } from '../src/desk/fits/analyst';
import { Leans } from '../src/desk/fits/leans';
import { Following } from '../src/desk/hand/following';
import { handRoom } from '../src/desk/hand/room';
import { Treating } from '../src/desk/hand/treating';
import { kit, verbs } from '../src/desk/kit/room';
import { listeningRoom } from '../src/desk/listening/room';
import { pictureRoom } from '../src/desk/picture/room';
import { recordingRoom } from '../src/desk/recording/room';
import { shapeRoom } from '../src/desk/shape/room';
import { tempoRoom } from '../src/desk/tempo/room';
import { treatmentRoom } from '../src/desk/treatment/room';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { provideDeskStore } from './store';

/** An analysis that is there at once, in place of the worker. */
class ReadyAnalyst {
  private readonly store = TestBed.inject(Store);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  readonly progress = signal(null);
  readonly complete = signal(true);
  readonly analysis = computed((): Analysis | null => {
    const s = this.song();
    return s ? analysePart(part(s), s) : null;
  });
}

/** Opens a song on a desk without its screen. */
export function open(s: Song): Store {
  TestBed.configureTestingModule({
    providers: [
      provideDeskStore(),
      kit,
      handRoom,
      pictureRoom,
      shapeRoom,
      treatmentRoom,
      listeningRoom,
      recordingRoom,
      tempoRoom,
      verbs,
      Leans,
      // Lines are found at once, without a worker.
      { provide: Following, useValue: null },
      { provide: Analyst, useClass: ReadyAnalyst },
    ],
  });
  const store = TestBed.inject(Store);
  store.dispatch(DeskActions.opened({ songId: 'x', history: startHistory(s) }));
  return store;
}

export const now = (): Song => TestBed.inject(Treating).song() as Song;
export const starts = (): number[] => [...treatPart(part(now()), now()).start];
export const settings = (): Treatment['quantize'] => part(now()).treatment.quantize;
