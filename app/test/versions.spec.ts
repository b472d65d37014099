import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { part, note, song } from '../../core/test/build';
import { Versions } from '../src/desk/treatment/versions';
import { Treating } from '../src/desk/hand/treating';
import { DeskActions } from '../src/state/desk.feature';
import { now, open, settings } from './desk-rig';

describe('versions of a treatment', () => {
  async function shown() {
    open(song([note(0, 20), note(1, 500)], { quantize: { on: true } }));
    const fixture = TestBed.createComponent(Versions);
    const element = fixture.nativeElement as HTMLElement;
    const settle = () => fixture.whenStable();
    await settle();
    const press = async (name: string) => {
      const all = [
        ...element.querySelectorAll('button'),
        ...document.querySelectorAll<HTMLElement>('.mat-mdc-menu-item'),
      ];
      const button = all.find((b) => (b.getAttribute('aria-label') ?? b.textContent).trim() === name);
      if (!button) throw new Error(`There is no “${name}”.`);
      button.click();
      await settle();
    };
    const names = () => [...element.querySelectorAll('[role=radio]')].map((b) => b.textContent.trim());
    const chosen = () => element.querySelector('[aria-checked=true]')?.textContent.trim();
    return { element, settle, press, names, chosen };
  }
  const strength = (value: number) => TestBed.inject(Treating).commit('Strength', { quantize: { strength: value } });

  it('are begun from what is set, and each keeps its own', async () => {
    const { press, names, chosen } = await shown();
    expect(names()).toEqual([]);
    await press('New version');
    expect(names()).toEqual(['1/16, 100 %', 'Version 2']);
    expect(chosen()).toBe('Version 2');
    strength(0.4);
    await press('1/16, 100 %');
    expect(settings().strength).toBe(1);
    await press('Version 2');
    expect(settings().strength).toBe(0.4);
    await press('+');
    expect(names()).toEqual(['1/16, 100 %', 'Version 2', 'Version 3']);
    // A step each: choosing is undone too.
    TestBed.inject(Store).dispatch(DeskActions.undo());
    TestBed.inject(Store).dispatch(DeskActions.undo());
    expect(settings().strength).toBe(1);
  });

  it('are renamed, deleted, and left as one', async () => {
    const { element, settle, press, names, chosen } = await shown();
    await press('New version');
    await press('Options for versions');
    await press('Rename “Version 2”');
    const field = element.querySelector('input') as HTMLInputElement;
    field.value = '  Lazy ';
    field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
    await settle();
    expect(chosen()).toBe('Lazy');
    await press('Options for versions');
    await press('Rename “Lazy”');
    // An empty name changes nothing.
    (element.querySelector('input') as HTMLInputElement).value = ' ';
    element.querySelector('input')?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
    await settle();
    expect(names()).toEqual(['1/16, 100 %', 'Lazy']);
    strength(0.3);
    await press('+');
    await press('Options for versions');
    await press('Delete “1/16, 100 %”');
    expect(names()).toEqual(['Lazy', 'Version 3']);
    await press('Options for versions');
    await press('Use “Version 3” and delete the others');
    expect(names()).toEqual([]);
    expect(part(now()).versions).toBeUndefined();
    expect(settings().strength).toBe(0.3);
  });
});
