import { TestBed } from '@angular/core/testing';
import { FocusOrigin } from '../src/common/focus-origin';
import { tinykeys } from 'tinykeys';
import { bindings, readable } from '../src/desk/kit/keys';
import { belongsToControl } from '../src/desk/kit/desk-keys';

describe('keys belong to the control that has the focus', () => {
  /** Whether a key pressed on an element is the element's own. */
  function own(html: string, key: string, more: KeyboardEventInit & { seen?: boolean } = {}): boolean {
    document.body.innerHTML = html;
    const target = document.querySelector<HTMLElement>('[data-here]') ?? document.body;
    let owned = false;
    const listen = (event: KeyboardEvent) => (owned = belongsToControl(event, more.seen ?? true));
    window.addEventListener('keydown', listen);
    target.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, ...more }));
    window.removeEventListener('keydown', listen);
    return owned;
  }
  const field = '<input data-here>';
  const slider = '<input type="range" data-here>';
  const button = '<button data-here>Play</button>';

  it('what a control has taken already is not taken again', () => {
    document.body.innerHTML = slider;
    document.querySelector('input')?.addEventListener('keydown', (event) => event.preventDefault());
    const taken: boolean[] = [];
    const listen = (event: KeyboardEvent) => taken.push(belongsToControl(event, false));
    window.addEventListener('keydown', listen);
    document
      .querySelector('input')
      ?.dispatchEvent(new KeyboardEvent('keydown', { key: '8', bubbles: true, cancelable: true }));
    window.removeEventListener('keydown', listen);
    expect(taken).toEqual([true]);
  });

  it.each<[string, string, KeyboardEventInit & { seen?: boolean }, boolean]>([
    [field, 'q', {}, true],
    [field, 'Home', {}, true],
    [field, '8', {}, true],
    [field, ' ', {}, true],
    [field, 'z', { ctrlKey: true }, true],
    [field, 's', { ctrlKey: true }, false],
    [field, 'k', { ctrlKey: true }, false],
    [field, 'Escape', {}, true],
    [slider, 'Home', {}, true],
    [slider, 'Home', { seen: false }, true],
    [slider, 'ArrowLeft', { seen: false }, true],
    [slider, '8', {}, true],
    [slider, 'q', {}, true],
    [slider, 'q', { seen: false }, false],
    [slider, ' ', {}, false],
    [slider, 'Escape', {}, false],
    [slider, 'z', { ctrlKey: true }, false],
    [button, ' ', {}, true],
    [button, ' ', { seen: false }, false],
    [button, 'q', {}, false],
    ['<div role="radiogroup"><button role="radio" data-here></button></div>', 'ArrowRight', {}, true],
    ['<div role="radiogroup"><button role="radio" data-here></button></div>', 'ArrowRight', { altKey: true }, false],
    ['<div role="menu"><button data-here></button></div>', 'q', {}, true],
    ['<div role="dialog"><button data-here></button></div>', 'Escape', {}, false],
    ['<div role="application" data-here></div>', '8', {}, false],
    ['<div data-here></div>', 'Home', {}, false],
  ])('%s %s %j: %s', (html, key, more, expected) => expect(own(html, key, more)).toBe(expected));
});

describe('keys of commands', () => {
  const pressed: string[] = [];
  const make = (name: string, keys: string[], repeats = false) => ({
    name,
    group: '',
    keys,
    repeats,
    run: () => undefined,
  });
  const commands = [
    make('undo', ['$mod+z'], true),
    make('redo', ['$mod+y'], true),
    make('all', ['$mod+a']),
    make('quantize', ['q']),
    make('show selection', ['Shift+v']),
    make('sixteenths', ['Digit6', '6']),
    make('help', ['Shift+?', '?']),
  ];
  let unbind: () => void;
  beforeEach(() => {
    pressed.length = 0;
    unbind = tinykeys(
      window,
      bindings(commands, ({ name }) => pressed.push(name)),
    );
  });
  afterEach(() => unbind());
  const press = (key: string, code: string, more: KeyboardEventInit = {}) =>
    window.dispatchEvent(new KeyboardEvent('keydown', { key, code, ...more }));

  it('go by what a key says on a QWERTZ layout', () => {
    press('z', 'KeyY', { ctrlKey: true });
    press('y', 'KeyZ', { ctrlKey: true });
    expect(pressed).toEqual(['undo', 'redo']);
  });

  it('go by what a key says on an AZERTY layout, digits by their place', () => {
    press('a', 'KeyQ', { ctrlKey: true });
    press('a', 'KeyQ');
    press('q', 'KeyA');
    press('§', 'Digit6');
    expect(pressed).toEqual(['all', 'quantize', 'sixteenths']);
  });

  it('go by the place of a letter where the layout has no Latin ones', () => {
    press('я', 'KeyZ', { ctrlKey: true });
    press('й', 'KeyQ');
    press('М', 'KeyV', { shiftKey: true });
    expect(pressed).toEqual(['undo', 'quantize', 'show selection']);
  });

  it('are found by number keys of their own, and by a sign with or without Shift', () => {
    press('6', 'Numpad6');
    press('?', 'Slash', { shiftKey: true });
    press('?', 'KeyM');
    expect(pressed).toEqual(['sixteenths', 'help', 'help']);
  });

  it('are told as they are read', () => {
    expect(
      ['$mod+Shift+z', 'Alt+ArrowLeft', 'BracketLeft', 'Shift+BracketLeft', 'Digit6', 'Shift+?', 'q'].map(readable),
    ).toEqual(['Ctrl Shift Z', 'Alt ←', '[', 'Shift [', '6', '?', 'Q']);
  });
});

describe('how the focus came', () => {
  it('is known, whatever key is pressed afterwards', () => {
    TestBed.configureTestingModule({ providers: [FocusOrigin] });
    const focus = TestBed.inject(FocusOrigin);
    document.body.innerHTML = '<button>a</button><button>b</button>';
    const [a, b] = document.querySelectorAll('button');
    a.dispatchEvent(new MouseEvent('mousedown', { bubbles: true, buttons: 1, detail: 1 }));
    a.focus();
    expect(focus.byKeyboard()).toBe(false);
    a.dispatchEvent(new KeyboardEvent('keydown', { key: 'v', keyCode: 86, bubbles: true }));
    expect(focus.byKeyboard()).toBe(false);
    a.dispatchEvent(new KeyboardEvent('keydown', { key: 'Tab', keyCode: 9, bubbles: true }));
    b.focus();
    expect(focus.byKeyboard()).toBe(true);
  });
});
