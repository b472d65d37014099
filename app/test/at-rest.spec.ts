import { atRest } from '../src/common/at-rest';

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

function waiting() {
  const told: string[] = [];
  const asked = atRest(12_000, 4000).subscribe(() => told.push('at rest'));
  const press = (name: string) => window.dispatchEvent(new Event(name));
  return { told, asked, press };
}

describe('the page is at rest', () => {
  it('twelve seconds after it came, if nobody does anything', () => {
    const { told, press } = waiting();
    press('keydown');
    jest.advanceTimersByTime(11_900);
    expect(told).toEqual([]);
    jest.advanceTimersByTime(200);
    expect(told).toEqual(['at rest']);
  });

  it.each(['pointerdown', 'pointermove', 'keydown', 'wheel', 'drop'])(
    'four seconds after the last %s, and only once',
    (name) => {
      const { told, press } = waiting();
      jest.advanceTimersByTime(6000);
      for (let k = 0; k < 20; k++) {
        jest.advanceTimersByTime(3000);
        press(name);
      }
      expect(told).toEqual([]);
      jest.advanceTimersByTime(3900);
      expect(told).toEqual([]);
      jest.advanceTimersByTime(200);
      expect(told).toEqual(['at rest']);
      press(name);
      jest.advanceTimersByTime(60_000);
      expect(told).toEqual(['at rest']);
    },
  );
});
