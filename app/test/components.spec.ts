import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { grid } from '@early-sparrow/core/grid';
import { Amount } from '../src/desk/amount';
import { Choice, words } from '../src/desk/choice';
import { GridPicker } from '../src/desk/grid-picker';
import { NoteSymbol } from '../src/desk/note-symbol';
import { StageRow } from '../src/desk/stage-row';

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
  });
});

describe('an amount', () => {
  it('is live while it moves and done when it is let go', async () => {
    const amount = await show(Amount, { label: 'Strength', value: 40, text: '40 %' });
    const moved: number[] = [];
    const done: number[] = [];
    amount.componentInstance.moved.subscribe((v) => moved.push(v));
    amount.componentInstance.done.subscribe((v) => done.push(v));
    const input = element(amount).querySelector('input');
    expect(input?.getAttribute('aria-valuetext')).toBe('40 %');
    if (input) {
      input.value = '55';
      input.dispatchEvent(new Event('input'));
      expect([moved, done]).toEqual([[55], []]);
      input.dispatchEvent(new Event('change'));
    }
    expect(done).toEqual([55]);
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
    n.value = '99';
    n.dispatchEvent(new Event('change'));
    expect(picked.at(-1)).toEqual({ shape: { n: 15, m: 4 } });
    const select = element(picker).querySelector('select');
    if (select) {
      select.value = '1/8T';
      select.dispatchEvent(new Event('change'));
    }
    expect(picked.at(-1)).toEqual({ mix: { value: 8, shape: { n: 3, m: 2 } } });
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
