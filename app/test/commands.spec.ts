import { TestBed } from '@angular/core/testing';
import { Commands } from '../src/desk/kit/commands';
import { ROOMS } from '../src/desk/rooms';
import { provideDeskStore } from './store';

describe('the commands of all rooms', () => {
  function all(): Commands['all'] {
    TestBed.configureTestingModule({ providers: [provideDeskStore(), ROOMS] });
    return TestBed.inject(Commands).all;
  }

  it('have a key and a name of their own: of two with one key only the last would be heard', () => {
    const commands = all();
    expect(commands.length).toBeGreaterThan(60);
    const repeated = (list: readonly string[]) => list.filter((x, i) => list.indexOf(x) !== i);
    expect(repeated(commands.flatMap((c) => [...c.keys]))).toEqual([]);
    expect(repeated(commands.map((c) => `${c.group}: ${c.name}`))).toEqual([]);
  });

  it('repeat with a held key only where that is a step, never where it is a switch', () => {
    expect(
      all()
        .filter((c) => c.repeats)
        .map((c) => c.name)
        .filter((name) => / or | on or off|^(Record|Play)/.test(name)),
    ).toEqual([]);
  });
});
