import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Pointing } from '../src/desk/kit/pointing';
import { KEYS_WIDTH, Viewport } from '../src/desk/kit/viewport';
import { PlayheadInView } from '../src/desk/picture/playhead-in-view';
import { Pressing } from '../src/desk/picture/pressing';
import { ListeningSettings } from '../src/sound/listening-settings';
import { Player } from '../src/sound/player';

describe('the playhead in the picture', () => {
  const player = { position: signal(0), began: signal({}), playing: signal(true) };
  const settings = signal({ follow: true });
  const pressing = { busy: false };
  const pointing = { busy: false };
  let view: Viewport;
  let playhead: PlayheadInView;
  const at = (tick: number) => {
    player.position.set(tick);
    TestBed.tick();
  };

  beforeEach(() => {
    TestBed.configureTestingModule({
      providers: [
        PlayheadInView,
        Viewport,
        { provide: Player, useValue: player },
        { provide: ListeningSettings, useValue: { values: settings } },
        { provide: Pressing, useValue: pressing },
        { provide: Pointing, useValue: pointing },
      ],
    });
    view = TestBed.inject(Viewport);
    view.width.set(KEYS_WIDTH + 1000);
    view.end.set(100_000);
    view.scale.set(1);
    view.left.set(0);
    player.began.set({});
    settings.set({ follow: true });
    playhead = TestBed.inject(PlayheadInView);
    at(0);
  });

  it('stays in view: the page is turned before its end', () => {
    at(900);
    expect(view.left()).toBe(0);
    at(930);
    expect(view.left()).toBe(850);
    // A loop turns back.
    at(100);
    expect(view.left()).toBe(20);
  });

  it('is left by who scrolls or zooms away from it, until it is in view again', () => {
    at(500);
    view.scroll(3000, 0);
    at(510);
    expect(view.left()).toBe(3000);
    at(3100);
    at(3930);
    expect(view.left()).toBe(3850);
    view.zoom(KEYS_WIDTH + 900, 8);
    const { left } = view;
    expect(left()).toBeGreaterThan(3930);
    const kept = left();
    at(3940);
    expect(left()).toBe(kept);
  });

  it('is left from the margin backwards, too', () => {
    at(900);
    view.scrollTo(-12);
    view.scrollTo(-12);
    at(920);
    expect(view.left()).toBe(-12);
    at(2000);
    expect(view.left()).toBe(-12);
  });

  it('is gone to where playing begins anew, and where the program itself moved the view', () => {
    at(500);
    view.scroll(3000, 0);
    at(510);
    player.began.set({});
    at(520);
    expect(view.left()).toBe(440);
    view.scroll(3000, 0);
    playhead.back();
    at(530);
    expect(view.left()).toBe(450);
  });

  it('turns no page under a drag or a sweep, nor unasked, nor at rest', () => {
    for (const hand of [pressing, pointing]) {
      hand.busy = true;
      at(1500);
      expect(view.left()).toBe(0);
      hand.busy = false;
    }
    at(1510);
    expect(view.left()).toBe(1430);
    settings.set({ follow: false });
    at(5000);
    settings.set({ follow: true });
    player.playing.set(false);
    at(6000);
    expect(view.left()).toBe(1430);
    player.playing.set(true);
  });
});
