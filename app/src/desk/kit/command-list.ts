import { A11yModule } from '@angular/cdk/a11y';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { Command } from './command';
import { Commands } from './commands';
import { readable } from './keys';
import { Panels } from './panels';

/** Name of the list among what can be open. */
export const COMMAND_LIST = 'commands';

/** All commands with their keys, searchable; it is the sheet of shortcuts too. */
@Component({
  selector: 'es-command-list',
  imports: [A11yModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (panels.isOpen(name)) {
      <div class="veil" (click)="close()" aria-hidden="true"></div>
      <div class="sheet" role="dialog" aria-label="Commands" cdkTrapFocus [cdkTrapFocusAutoCapture]="true">
        <input
          role="combobox"
          aria-expanded="true"
          aria-controls="command-options"
          [attr.aria-activedescendant]="'command-' + at()"
          aria-label="Search commands"
          placeholder="What would you like to do?"
          [value]="query()"
          (input)="search($any($event.target).value)"
          (keydown)="key($event)"
        />
        <ul id="command-options" role="listbox" aria-label="Commands">
          @for (command of found(); track command.name; let i = $index) {
            <li
              role="option"
              [id]="'command-' + i"
              [attr.aria-selected]="i === at()"
              [class.at]="i === at()"
              (mousemove)="point($event, i)"
              (mousedown)="$event.preventDefault()"
              (click)="run(command, $event)"
              (keydown.enter)="run(command, $event)"
              tabindex="-1"
            >
              <span class="soft">{{ command.group }}</span>
              <span>{{ command.name }}</span>
              <kbd>{{ shown(command) }}</kbd>
            </li>
          } @empty {
            <li class="soft" role="option" aria-selected="false">No command has that name.</li>
          }
        </ul>
      </div>
    }
  `,
  styles: `
    .veil {
      position: fixed;
      inset: 0;
      z-index: 90;
    }
    .sheet {
      position: fixed;
      z-index: 91;
      top: 72px;
      left: 50%;
      width: min(560px, calc(100vw - 32px));
      transform: translateX(-50%);
      padding: 8px;
      border: 1px solid var(--line);
      border-radius: 10px;
      background: var(--paper);
      box-shadow: 0 8px 32px color-mix(in srgb, var(--ink) 22%, transparent);
    }
    input {
      width: 100%;
      padding: 8px 12px;
      border: 0;
      border-bottom: 1px solid var(--line);
      background: none;
      color: var(--ink);
      font: inherit;
      outline: none;
    }
    ul {
      list-style: none;
      margin: 4px 0 0;
      padding: 0;
      max-height: 60vh;
      overflow: auto;
    }
    li {
      display: grid;
      grid-template-columns: 64px 1fr auto;
      gap: 8px;
      padding: 5px 12px;
      border-radius: 6px;
      cursor: pointer;
    }
    .at {
      background: var(--raised);
    }
    .soft {
      color: var(--soft);
    }
    kbd {
      font-family: var(--number);
      color: var(--soft);
    }
  `,
})
export class CommandList {
  private readonly commands = inject(Commands);
  protected readonly panels = inject(Panels);
  protected readonly name = COMMAND_LIST;
  protected readonly query = signal('');
  protected readonly at = signal(0);
  protected readonly found = computed((): readonly Command[] => {
    const words = this.query().toLowerCase().split(/\s+/).filter(Boolean);
    return this.commands.all.filter((c) => words.every((w) => `${c.group} ${c.name}`.toLowerCase().includes(w)));
  });

  /**
   * A key that is pressed before the field has the focus is meant for it: a letter, Enter or an arrow reaches no command
   * of the desk.
   * @returns whether it was one of these
   */
  take(event: KeyboardEvent): boolean {
    const { key } = event;
    const letter = key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey;
    if (letter) this.search(this.query() + key);
    else if (key === 'Backspace') this.search(this.query().slice(0, -1));
    else if (['Enter', 'ArrowDown', 'ArrowUp'].includes(key)) this.key(event);
    else return false;
    return true;
  }

  protected shown({ keys }: Command): string {
    const [first] = keys;
    return first === undefined ? '' : readable(first);
  }

  protected search(text: string): void {
    this.query.set(text);
    this.at.set(0);
  }

  protected key(event: KeyboardEvent): void {
    event.stopPropagation();
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step !== undefined) {
      event.preventDefault();
      this.at.set(Math.max(0, Math.min(this.found().length - 1, this.at() + step)));
      document.getElementById(`command-${this.at()}`)?.scrollIntoView({ block: 'nearest' });
    } else if (event.key === 'Enter') {
      const command = this.found()[this.at()];
      if (command) this.run(command, event);
    } else if (event.key === 'Escape') this.close();
  }

  /** A pointer that rests where the list comes up moves too, by nothing: it chooses nothing. */
  protected point({ movementX, movementY }: MouseEvent, index: number): void {
    if (movementX !== 0 || movementY !== 0) this.at.set(index);
  }

  protected run(command: Command, { timeStamp }: Event): void {
    this.close();
    command.run(timeStamp);
  }

  protected close(): void {
    this.panels.close(COMMAND_LIST);
    this.search('');
  }
}
