import { TestBed } from '@angular/core/testing';
import type { MidiBytes } from '@early-sparrow/core/record';
import { DeskActions } from '../src/state/desk.feature';
import { Said } from '../src/common/said';
import { holding, type Command, type Held } from '../src/desk/kit/command';
import { Commands } from '../src/desk/kit/commands';
import { HeldKey } from '../src/desk/kit/held-key';
import { Pointing } from '../src/desk/kit/pointing';
import type { At } from '../src/desk/kit/pointer';
import { ALL_PITCHES, KEYS_WIDTH, Viewport } from '../src/desk/kit/viewport';
import { OffsetLane } from '../src/desk/picture/offset-lane';
import { Player } from '../src/sound/player';
import { note, song } from '../../core/test/build';
import { open } from './desk-rig';

describe('a key that is held', () => {
  const log: string[] = [];
  const command = (name: string): Command =>
    holding('Test', name, [], (): Held => {
      log.push(`${name} begins`);
      return { drop: () => log.push(`${name} ends`), cancel: () => log.push(`${name} is taken back`) };
    });
  const key = (type: 'keydown' | 'keyup', init: KeyboardEventInit) =>
    window.dispatchEvent(new KeyboardEvent(type, { bubbles: true, cancelable: true, ...init }));
  function rig(): HeldKey {
    log.length = 0;
    TestBed.configureTestingModule({ providers: [HeldKey] });
    return TestBed.inject(HeldKey);
  }

  it('is over when that key is let go, and only then', () => {
    rig().down({ code: 'KeyZ' }, command('a'));
    key('keyup', { code: 'KeyX' });
    expect(log).toEqual(['a begins']);
    key('keyup', { code: 'KeyZ' });
    key('keyup', { code: 'KeyZ' });
    expect(log).toEqual(['a begins', 'a ends']);
  });

  it.each<[string, (held: HeldKey) => unknown]>([
    ['Escape', () => key('keydown', { key: 'Escape' })],
    ['a window that loses the focus', () => window.dispatchEvent(new Event('blur'))],
    ['a song that is left', (held) => held.cancel()],
    ['a page that goes', () => TestBed.resetTestingModule()],
  ])('is taken back once by %s', (_, act) => {
    const held = rig();
    held.down({ code: 'KeyZ' }, command('a'));
    act(held);
    key('keyup', { code: 'KeyZ' });
    expect(log).toEqual(['a begins', 'a is taken back']);
  });

  it('Escape reaches nothing else while something is held, and everything else afterwards', () => {
    const held = rig();
    let reached = 0;
    const listen = (event: KeyboardEvent) => void (event.key === 'Escape' && reached++);
    window.addEventListener('keydown', listen);
    held.down({ code: 'KeyZ' }, command('a'));
    key('keydown', { key: 'Escape' });
    expect(reached).toBe(0);
    key('keydown', { key: 'Escape' });
    expect(reached).toBe(1);
    window.removeEventListener('keydown', listen);
  });

  it('another one that goes down ends it first', () => {
    const held = rig();
    held.down({ code: 'KeyZ' }, command('a'));
    held.down({ code: 'KeyX' }, command('b'));
    key('keyup', { code: 'KeyZ' });
    expect(log).toEqual(['a begins', 'a ends', 'b begins']);
    key('keyup', { code: 'KeyX' });
    expect(log.at(-1)).toBe('b ends');
  });
});

describe('playing the notes under the pointer', () => {
  function rig() {
    const store = open(
      song([note(0, 0, { pitch: 60, velocity: 90 }), note(1, 500, { pitch: 64, velocity: 50 })], {
        quantize: { on: true },
      }),
    );
    const view = TestBed.inject(Viewport);
    view.width.set(KEYS_WIDTH + 960);
    view.height.set(600);
    view.lanes.set([TestBed.inject(OffsetLane)]);
    view.end.set(7680);
    view.fitPitches(ALL_PITCHES, 60, 64, 20);
    view.scale.set(0.5);
    view.left.set(0);
    const heard: MidiBytes[] = [];
    jest.spyOn(TestBed.inject(Player), 'wake').mockResolvedValue(true);
    jest.spyOn(TestBed.inject(Player), 'live').mockImplementation((_, bytes) => void heard.push(bytes));
    /** What was sent so far: each waits for the engine to be awake. */
    const sent = async () => {
      await Promise.resolve();
      await Promise.resolve();
      return heard;
    };
    const verb = TestBed.inject(Commands).all.find((c) => c.keys.includes('z'));
    if (!verb?.hold) throw new Error('There is no such verb.');
    const pointing = TestBed.inject(Pointing);
    const to = (tick: number, pitch: number) =>
      pointing.move({ offsetX: view.x(tick) + 3, offsetY: view.y(pitch) + 10, button: 0 } as At);
    return { store, sent, hold: verb.hold, pointing, to };
  }

  it('sounds each one that the pointer comes to, once, and lets it go when the pointer leaves it', async () => {
    const { sent, hold, to } = rig();
    to(0, 60);
    const held = hold();
    to(20, 60);
    to(300, 62);
    to(480, 64);
    held?.drop();
    expect(await sent()).toEqual([
      [0x90, 60, 90],
      [0x80, 60, 64],
      [0x90, 64, 50],
      [0x80, 64, 64],
    ]);
    to(0, 60);
    expect(await sent()).toHaveLength(4);
  });

  it('lets the note go when it is taken back, and when the pointer has left the picture', async () => {
    const { sent, hold, pointing, to } = rig();
    to(0, 60);
    hold()?.cancel();
    expect((await sent()).map((b) => b[0])).toEqual([0x90, 0x80]);
    to(0, 60);
    const held = hold();
    pointing.leave();
    held?.drop();
    expect((await sent()).map((b) => b[0])).toEqual([0x90, 0x80, 0x90, 0x80]);
    // Without a pointer there is nothing to play: that is told.
    expect(hold()).toBeNull();
    expect(TestBed.inject(Said).text()).toMatch(/^Point at a note/);
  });

  it('finds notes where they are shown: on the side as played they lie elsewhere', async () => {
    const { sent, hold, store, to } = rig();
    // It was played at 500, and its line is 480: six ticks behind that is the pointer.
    to(480, 64);
    store.dispatch(DeskActions.compare({ which: 'played' }));
    hold()?.drop();
    expect(await sent()).toEqual([]);
    store.dispatch(DeskActions.compare({ which: 'corrected' }));
    hold()?.drop();
    expect((await sent())[0]).toEqual([0x90, 64, 50]);
  });
});
