import { leavingFields } from '../src/desk/kit/leave-field';

/** A field that stands at 120, in which something was typed or not, on a desk that leaves fields by Escape. */
function rig(html: string, typed?: string) {
  document.body.innerHTML = html;
  const ends: (() => void)[] = [];
  leavingFields({ onDestroy: (end: () => void) => ends.push(end) } as never);
  const field = document.querySelector('input')!;
  const heard: string[] = [];
  field.addEventListener('input', () => heard.push(field.value));
  const type = (text: string) => {
    field.dispatchEvent(new InputEvent('beforeinput', { bubbles: true }));
    field.value = text;
  };
  const escape = () => {
    const event = new KeyboardEvent('keydown', { key: 'Escape', bubbles: true, cancelable: true });
    field.dispatchEvent(event);
    return event;
  };
  field.focus();
  if (typed !== undefined) type(typed);
  return { field, heard, type, escape, end: () => ends.forEach((end) => end()) };
}

const NUMBER = '<input type="number" value="120">';
const focused = () => document.activeElement?.tagName;

describe('Escape in a field', () => {
  it('takes back what was typed, tells that, and gives the keys back', () => {
    const { field, heard, escape, end } = rig(NUMBER, '96');
    expect(escape().defaultPrevented).toBe(true);
    expect(field.value).toBe('120');
    expect(heard).toEqual(['120']);
    expect(focused()).toBe('BODY');
    end();
  });

  it('leaves what was taken over, and says nothing where nothing was typed', () => {
    const { field, heard, type, escape, end } = rig(NUMBER, '96');
    field.dispatchEvent(new Event('change', { bubbles: true }));
    escape();
    expect(field.value).toBe('96');
    field.focus();
    type('9');
    type('97');
    escape();
    expect(field.value).toBe('96');
    expect(heard).toEqual(['96']);
    end();
  });

  it('empties a search, whenever it was typed', () => {
    const { field, heard, escape, end } = rig('<input type="search">', 'chorus');
    field.dispatchEvent(new Event('change', { bubbles: true }));
    escape();
    expect(field.value).toBe('');
    expect(heard).toEqual(['']);
    end();
  });

  it('belongs to a dialog, to a field that takes it, and to whoever took it before', () => {
    const inDialog = rig(`<div role="dialog">${NUMBER}</div>`, '96');
    inDialog.escape();
    expect(inDialog.field.value).toBe('96');
    inDialog.end();
    const own = rig(`${NUMBER}<button>Slider</button>`, '96');
    own.field.addEventListener('keydown', () => document.querySelector('button')!.focus());
    own.escape();
    expect(focused()).toBe('BUTTON');
    own.end();
    const before = rig(NUMBER, '96');
    before.field.addEventListener('keydown', (event) => event.preventDefault());
    before.escape();
    expect(before.field.value).toBe('96');
    before.end();
  });

  it('is nothing on a slider, nor once the desk is left', () => {
    const slider = rig('<input type="range" value="50">');
    expect(slider.escape().defaultPrevented).toBe(false);
    expect(focused()).toBe('INPUT');
    slider.end();
    const left = rig(NUMBER, '96');
    left.end();
    left.escape();
    expect(left.field.value).toBe('96');
  });
});
