import type { Pieces } from '@early-sparrow/core/maths';
import { inTurns, inTurnsLast } from '../src/common/in-turns';

/** So many pieces of work that fill a turn each; it writes its name down at each. */
function* pieces(count: number, name: string, done: string[]): Pieces<string> {
  for (let i = 0; i < count; i++) {
    done.push(name);
    const until = performance.now() + 20;
    while (performance.now() < until);
    yield;
  }
  return name;
}

const never = new AbortController().signal;

/** Stands in for the browser's scheduler. */
const scheduler = { postTask: (task: () => void) => Promise.resolve().then(task) };

describe.each([
  ['tasks', { scheduler }],
  ['timers alone', { scheduler: undefined }],
])('long work in a browser with %s', (_, browser) => {
  beforeAll(() => void Object.assign(globalThis, browser));
  afterAll(() => void Object.assign(globalThis, { scheduler: undefined }));

  it('goes on in turns with other work that is waited for', async () => {
    const done: string[] = [];
    const both = [inTurns(pieces(3, 'a', done)), inTurns(pieces(3, 'b', done))];
    expect(await Promise.all(both)).toEqual(['a', 'b']);
    expect(done).toEqual(['a', 'b', 'a', 'b', 'a', 'b']);
  });

  it('that nobody waits for lets all other work go before, even such as comes later', async () => {
    const done: string[] = [];
    const last = inTurnsLast(pieces(3, 'last', done), never);
    const first = inTurns(pieces(3, 'first', done));
    expect(await first).toBe('first');
    expect(await last).toBe('last');
    expect(done).toEqual(['last', 'first', 'first', 'first', 'last', 'last']);
  });

  it('is put down where it is stopped, and what failed is no longer waited for', async () => {
    const done: string[] = [];
    const stop = new AbortController();
    const stopped = inTurns(pieces(3, 'a', done), stop.signal);
    stop.abort();
    expect(await stopped).toBeNull();
    const fails = inTurns(
      (function* (): Pieces<string> {
        yield;
        throw new Error('It does not work.');
      })(),
    );
    await expect(fails).rejects.toThrow('It does not work.');
    expect(await inTurnsLast(pieces(1, 'last', done), never)).toBe('last');
    expect(done).toEqual(['a', 'last']);
  });
});

it('does not wait for timers where there are tasks: in a hidden page timers come once a second', async () => {
  Object.assign(globalThis, { scheduler });
  const timers = jest.spyOn(globalThis, 'setTimeout');
  expect(await inTurns(pieces(3, 'a', []))).toBe('a');
  expect(timers).not.toHaveBeenCalled();
  timers.mockRestore();
  Object.assign(globalThis, { scheduler: undefined });
});
