import { belongsToControl } from '../src/desk/desk-keys';

describe('keys belong to the control that has the focus', () => {
  /** Whether a key pressed on an element is the element's own. */
  function own(html: string, key: string, more: KeyboardEventInit & { seen?: boolean } = {}): boolean {
    document.body.innerHTML = html;
    const target = document.querySelector<HTMLElement>('[data-here]') ?? document.body;
    const matches = target.matches.bind(target);
    // jsdom does not know how the focus came.
    target.matches = (selector: string) => (selector === ':focus-visible' ? (more.seen ?? true) : matches(selector));
    let owned = false;
    const listen = (event: KeyboardEvent) => (owned = belongsToControl(event));
    window.addEventListener('keydown', listen);
    target.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, ...more }));
    window.removeEventListener('keydown', listen);
    return owned;
  }
  const field = '<input data-here>';
  const slider = '<input type="range" data-here>';
  const button = '<button data-here>Play</button>';

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
