import { Component } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Holding } from '../src/desk/controls/holding';

@Component({
  imports: [Holding],
  template: `<button [esHolding]="show" [esHoldingEnd]="end" (pressed)="told.push('pressed')"></button>`,
})
class Held {
  readonly told: string[] = [];
  readonly show = () => this.told.push('shown');
  readonly end = () => this.told.push('taken back');
}

/** A button and what it tells; events carry the time at which the device saw them, in ms. */
function held(): { told: string[]; send: (type: string, ms: number, key?: string) => void } {
  const fixture = TestBed.createComponent(Held);
  fixture.detectChanges();
  const button = (fixture.nativeElement as HTMLElement).querySelector('button') as HTMLButtonElement;
  button.setPointerCapture = () => undefined;
  const send = (type: string, ms: number, key?: string) => {
    const event = key === undefined ? new MouseEvent(type) : new KeyboardEvent(type, { key });
    button.dispatchEvent(Object.defineProperties(event, { isPrimary: { value: true }, timeStamp: { value: ms } }));
  };
  return { told: fixture.componentInstance.told, send };
}

describe('a button that is pressed or held', () => {
  beforeEach(() => jest.useFakeTimers());
  afterEach(() => jest.useRealTimers());

  for (const [down, up, key] of [
    ['pointerdown', 'pointerup', undefined],
    ['keydown', 'keyup', 'Enter'],
    ['keydown', 'keyup', ' '],
  ] as const) {
    const by = key === undefined ? 'the pointer' : key === ' ' ? 'Space' : key;

    it(`acts on a short press of ${by}, and only shows what it would do while held`, () => {
      const { told, send } = held();
      send(down, 1000, key);
      jest.advanceTimersByTime(349);
      send(up, 1349, key);
      expect(told.splice(0)).toEqual(['pressed']);
      send(down, 3000, key);
      jest.advanceTimersByTime(350);
      expect(told).toEqual(['shown']);
      send(up, 3600, key);
      expect(told).toEqual(['shown', 'taken back']);
    });

    it(`acts on a short press of ${by} on a page that was too busy to hear of its end in time`, () => {
      const { told, send } = held();
      send(down, 1000, key);
      jest.advanceTimersByTime(800);
      send(up, 1080, key);
      expect(told).toEqual(['shown', 'taken back', 'pressed']);
    });
  }

  it('does nothing where the press is lost', () => {
    for (const lost of ['pointercancel', 'lostpointercapture', 'blur']) {
      const { told, send } = held();
      send('pointerdown', 1000);
      send(lost, 1010);
      jest.advanceTimersByTime(1000);
      send('pointerup', 1020);
      expect(told).toEqual([]);
    }
  });
});
