import { TestBed } from '@angular/core/testing';
import { command, provideCommands } from '../src/desk/kit/command';
import { COMMAND_LIST, CommandList } from '../src/desk/kit/command-list';
import { Commands } from '../src/desk/kit/commands';
import { Panels } from '../src/desk/kit/panels';
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

describe('the list of commands', () => {
  it('takes what is typed before its field has the focus, Enter too: nothing of it reaches the desk', () => {
    const run: string[] = [];
    TestBed.configureTestingModule({
      providers: [
        Panels,
        Commands,
        provideCommands(() => [
          command('Notes', 'Keep as corrected', [], () => run.push('keep')),
          command('Listen', 'Play or pause', [], () => run.push('play')),
        ]),
      ],
    });
    const list = TestBed.runInInjectionContext(() => new CommandList());
    const panels = TestBed.inject(Panels);
    panels.open(COMMAND_LIST);
    const press = (key: string, more: KeyboardEventInit = {}) =>
      list.take(new KeyboardEvent('keydown', { key, ...more }));
    for (const letter of 'kex') expect(press(letter)).toBe(true);
    expect(press('Backspace')).toBe(true);
    expect(press('Escape')).toBe(false);
    expect(press('z', { ctrlKey: true })).toBe(false);
    expect(press('Enter')).toBe(true);
    expect(run).toEqual(['keep']);
    expect(panels.isOpen(COMMAND_LIST)).toBe(false);
  });
});
