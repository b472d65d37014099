import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { grid } from '@early-sparrow/core/grid';
import { Amount } from '../src/desk/controls/amount';
import { words } from '../src/common/option';
import { Choice } from '../src/desk/controls/choice';
import { Said } from '../src/common/said';
import { GridPicker } from '../src/desk/treatment/grid-picker';
import { NoteSymbol } from '../src/desk/treatment/note-symbol';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import type { TypedAmount } from '@early-sparrow/core/time';
import { note, song } from '../../core/test/build';
import { TimeAmountControl } from '../src/desk/controls/time-amount';
import { ChosenParts } from '../src/desk/hand/chosen-parts';
import { Treating } from '../src/desk/hand/treating';
import { DeskActions } from '../src/state/desk.feature';
import { provideDeskStore } from './store';
import { StageRow } from '../src/desk/treatment/stage-row';

async function show<T>(
  type: new (...args: never[]) => T,
  inputs: Record<string, unknown>,
): Promise<ComponentFixture<T>> {
  const fixture = TestBed.createComponent(type as new () => T);
  for (const [name, value] of Object.entries(inputs)) fixture.componentRef.setInput(name, value);
  await fixture.whenStable();
  return fixture;
}
const element = <T>(f: ComponentFixture<T>) => f.nativeElement as HTMLElement;

describe('a stage’s row', () => {
  it('is a switch with a name, and can be put back once it was changed', async () => {
    const row = await show(StageRow, { name: 'Humanize', on: false });
    const seen: boolean[] = [];
    let back = 0;
    row.componentInstance.switched.subscribe((on) => seen.push(on));
    row.componentInstance.putBack.subscribe(() => back++);
    const dot = element(row).querySelector<HTMLElement>('[role=switch]');
    expect(dot?.getAttribute('aria-label')).toBe('Humanize');
    expect(dot?.getAttribute('aria-checked')).toBe('false');
    dot?.click();
    expect(seen).toEqual([true]);
    expect(element(row).querySelector('.reset')).toBeNull();
    row.componentRef.setInput('changed', true);
    await row.whenStable();
    element(row).querySelector<HTMLElement>('.reset')?.click();
    expect(back).toBe(1);
    // The button goes: the focus is beside it.
    expect(document.activeElement).toBe(dot);
  });
});

describe('an amount', () => {
  async function rig(inputs: Record<string, unknown> = {}) {
    TestBed.configureTestingModule({ providers: [provideDeskStore(), ChosenParts, Treating] });
    const amount = await show(Amount, { label: 'Strength', value: 40, ...inputs });
    const moved: number[] = [];
    const done: number[] = [];
    amount.componentInstance.moved.subscribe((v) => moved.push(v));
    amount.componentInstance.done.subscribe((v) => done.push(v));
    const find = (selector: string) => {
      const found = element(amount).querySelector<HTMLInputElement>(selector);
      if (!found) throw new Error(`${selector} is not there`);
      return found;
    };
    const slider = find('input[type=range]');
    const field = find('.field');
    const key = (target: HTMLElement, name: string) =>
      target.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true, cancelable: true }));
    const type = (text: string) => {
      field.value = text;
      field.dispatchEvent(new Event('change'));
    };
    const slide = (value: number, event: 'input' | 'change') => {
      slider.value = String(value);
      slider.dispatchEvent(new Event(event));
    };
    const alert = async () => {
      await amount.whenStable();
      return element(amount).querySelector('[role=alert]')?.textContent?.trim() ?? '';
    };
    return { moved, done, slider, field, key, type, slide, alert };
  }

  it('is live while it moves and done when it is let go', async () => {
    const { moved, done, slider, slide } = await rig();
    expect(slider.getAttribute('aria-valuetext')).toBe('40 %');
    slide(55, 'input');
    expect([moved, done]).toEqual([[55], []]);
    slide(55, 'change');
    expect(done).toEqual([55]);
  });

  it('is taken back by Escape on the way: nothing is done when it is let go', async () => {
    const { moved, done, slider, slide, key } = await rig();
    slider.dispatchEvent(new MouseEvent('pointerdown', { bubbles: true }));
    slide(55, 'input');
    key(document.body, 'Escape');
    slide(70, 'input');
    slide(70, 'change');
    expect([moved, done]).toEqual([[55], []]);
    slide(60, 'change');
    expect(done).toEqual([60]);
  });

  it('let go where it stood before, nothing is shown any more, and the next key counts', async () => {
    const { moved, done, slider, slide, key } = await rig();
    const ends = jest.spyOn(TestBed.inject(Treating), 'endTrying');
    const press = (type: string) => slider.dispatchEvent(new MouseEvent(type, { bubbles: true }));
    const turn = () => new Promise((next) => setTimeout(next));
    press('pointerdown');
    slide(55, 'input');
    slide(40, 'input');
    press('pointerup');
    await turn();
    expect(ends).toHaveBeenCalledTimes(1);
    // The same after Escape, which has taken it back already.
    press('pointerdown');
    slide(50, 'input');
    key(document.body, 'Escape');
    press('pointerup');
    await turn();
    slide(41, 'input');
    slide(41, 'change');
    expect([moved, done, ends.mock.calls.length]).toEqual([[55, 40, 50, 41], [41], 2]);
  });

  it('can be typed with its unit, stepped, and says what it takes', async () => {
    const { done, field, key, type, alert } = await rig();
    type('66 %');
    type('12,5');
    expect(done).toEqual([66, 12.5]);
    for (const wrong of ['120 %', '-1', '12 ms', 'much']) {
      type(wrong);
      expect(await alert()).toBe('Write a number from 0 % to 100 %.');
    }
    expect(done).toHaveLength(2);
    key(field, 'ArrowUp');
    key(field, 'ArrowUp');
    // The second press goes on from the first, though nothing is shown yet.
    expect(done.slice(2)).toEqual([41, 42]);
    // What was done here was not taken: once that is shown, the amount stands where it stood.
    expect(await alert()).toBe('');
    key(field, 'ArrowDown');
    expect(done.slice(4)).toEqual([39]);
    expect(field.value).toBe('40 %');
  });

  it('a digit on the slider begins the field', async () => {
    const { slider, field, key } = await rig();
    slider.focus();
    key(slider, '7');
    expect(document.activeElement).toBe(field);
    expect(field.value).toBe('7');
  });

  it('of a bare number takes no percent, and shows its sign', async () => {
    const { done, field, type, alert } = await rig({ value: 12, min: -60, max: 60, unit: '', signed: true });
    expect(field.value).toBe('+12');
    type('5 %');
    expect(await alert()).toBe('Write a number from −60 to +60.');
    type('−5');
    expect(done).toEqual([-5]);
  });
});

describe('an amount of time', () => {
  async function rig(amount: TypedAmount | null, inputs: Record<string, unknown> = {}) {
    TestBed.configureTestingModule({ providers: [provideDeskStore(), ChosenParts, Treating] });
    TestBed.inject(Store).dispatch(
      DeskActions.opened({ songId: 'x', history: startHistory(song([note(0, 0), note(1, 480)])) }),
    );
    const control = await show(TimeAmountControl, { label: 'Tolerance', amount, limits: '', ...inputs });
    const done: TypedAmount[] = [];
    control.componentInstance.done.subscribe((v) => done.push(v));
    const field = element(control).querySelector<HTMLInputElement>('.field');
    const type = (text: string) => {
      if (!field) return;
      field.value = text;
      field.dispatchEvent(new Event('change'));
    };
    const alert = async () => {
      await control.whenStable();
      return element(control).querySelector('[role=alert]')?.textContent?.trim() ?? '';
    };
    const slider = () => Number(element(control).querySelector<HTMLInputElement>('input[type=range]')?.value);
    return { done, field, type, alert, slider, control };
  }

  it('takes every unit, and keeps the one that was typed', async () => {
    const { done, type } = await rig({ value: 6, unit: 'ms' });
    for (const text of ['12 ms', '1/64', '30 t', '40 %', '7']) type(text);
    expect(done).toEqual([
      { value: 12, unit: 'ms' },
      { value: 60, unit: 'ticks' },
      { value: 30, unit: 'ticks' },
      { value: 40, unit: 'percent' },
      { value: 7, unit: 'ms' },
    ]);
  });

  it('says what it takes', async () => {
    const { done, type, alert } = await rig({ value: 6, unit: 'ms' });
    type('soon');
    expect(await alert()).toBe('Write a time such as 12 ms, 1/64, 30 t or 40 %.');
    for (const wrong of ['-3 ms', '2 s', '140 %']) {
      type(wrong);
      expect(await alert()).toBe('Write a time from 0 to 1000 ms, or from 0 to 100 %.');
    }
    expect(done).toEqual([]);
  });

  it('is one step for one Enter, which gives the keys back to the desk', async () => {
    const { done, field, control } = await rig({ value: 6, unit: 'ms' });
    field?.focus();
    expect(document.activeElement).toBe(field);
    if (field) field.value = '12';
    // As browsers do: a field that is left with something new in it says so first.
    const change = () => void (field?.value === '12' && field.dispatchEvent(new Event('change')));
    field?.addEventListener('blur', change, { capture: true, once: true });
    field?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }));
    await control.whenStable();
    await new Promise((resolve) => setTimeout(resolve, 10));
    expect(document.activeElement).not.toBe(field);
    expect(done).toEqual([{ value: 12, unit: 'ms' }]);
  });

  it('without a limit is typed too, only where there may be none', async () => {
    const { type, alert, control } = await rig({ value: 30, unit: 'ms' }, { unlimited: true });
    let cleared = 0;
    control.componentInstance.cleared.subscribe(() => cleared++);
    type('no limit');
    type('none');
    expect(cleared).toBe(2);
    type('later');
    expect(await alert()).toBe('Write a time such as 12 ms, 1/64, 30 t, 40 % or no limit.');
    TestBed.resetTestingModule();
    const limited = await rig({ value: 30, unit: 'ms' });
    limited.type('no limit');
    expect(await limited.alert()).toMatch(/^Write a time such as/);
  });

  it('stands where the amount is, whatever its unit: 120 BPM, half a sixteenth is 62.5 ms', async () => {
    expect((await rig({ value: 20, unit: 'ms' })).slider()).toBe(20);
    TestBed.resetTestingModule();
    // 96 ticks are 50 ms
    expect((await rig({ value: 96, unit: 'ticks' })).slider()).toBe(50);
    TestBed.resetTestingModule();
    expect((await rig({ value: 80, unit: 'percent' })).slider()).toBe(50);
    TestBed.resetTestingModule();
    const none = await rig(null, { unit: 'percent', min: 5, max: 100 });
    expect([none.slider(), none.field?.value]).toEqual([100, 'no limit']);
  });
});

describe('choices', () => {
  it('are named and give what was picked', async () => {
    const choice = await show(Choice, { label: 'Lean', value: 'both', options: words('early', 'both', 'late') });
    const picked: string[] = [];
    choice.componentInstance.picked.subscribe((v) => picked.push(v));
    const buttons = [...element(choice).querySelectorAll('button')];
    expect(buttons.map((b) => b.textContent?.trim())).toEqual(['early', 'both', 'late']);
    buttons[2].click();
    expect(picked).toEqual(['late']);
  });

  it('of a grid: values, shapes, tuplets and mixes', async () => {
    const picker = await show(GridPicker, { grid: grid(16) });
    const picked: unknown[] = [];
    picker.componentInstance.picked.subscribe((v) => picked.push(v));
    const button = (text: string) =>
      [...element(picker).querySelectorAll('button')].find((b) => b.textContent?.includes(text));
    button('1/8')?.click();
    button('triplet')?.click();
    button('n : m')?.click();
    expect(picked).toEqual([
      { value: 8 },
      { shape: { n: 3, m: 2 }, swing: 0.5 },
      { shape: { n: 5, m: 4 }, swing: 0.5 },
    ]);
    picker.componentRef.setInput('grid', grid(16, { n: 5, m: 4 }));
    await picker.whenStable();
    const [n] = element(picker).querySelectorAll<HTMLInputElement>('input[type=number]');
    const type = (text: string) => {
      n.value = text;
      n.dispatchEvent(new Event('change'));
    };
    for (const wrong of ['99', '0', '']) {
      type(wrong);
      expect([picked.length, n.value]).toEqual([3, '5']);
      expect(TestBed.inject(Said).text()).toBe('Type a number from 1 to 15.');
    }
    type('15');
    expect(picked.at(-1)).toEqual({ shape: { n: 15, m: 4 } });
  });

  it.each([
    [1, 0, 0],
    [4, 1, 0],
    [8, 1, 1],
    [64, 1, 4],
  ] as const)('a note of 1/%i has %i stem and %i flags', async (value, stems, flags) => {
    const symbol = await show(NoteSymbol, { value });
    expect(element(symbol).querySelectorAll('path')).toHaveLength(stems + flags);
  });
});
