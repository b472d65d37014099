import type { Command } from './command';

type Handler = (event: KeyboardEvent) => void;

/** A letter in the notation of tinykeys: what the key says. */
const LETTER = /(^|\+)([a-z])$/;

/**
 * The keys of commands for tinykeys. A letter means what the key says on the user's layout; on a layout without Latin
 * letters it means the place where that letter is on most keyboards.
 * @param handle what a key does that is a command's
 */
export function bindings(
  commands: readonly Command[],
  handle: (command: Command, event: KeyboardEvent) => void,
): Record<string, Handler> {
  const bound: Record<string, Handler> = {};
  for (const command of commands) {
    for (const key of command.keys) {
      bound[key] = (event) => handle(command, event);
      const letter = LETTER.exec(key)?.[2];
      if (letter === undefined) continue;
      bound[key.replace(LETTER, `$1Key${letter.toUpperCase()}`)] = (event) => {
        if (!isLatin(event.key)) handle(command, event);
      };
    }
  }
  return bound;
}

function isLatin(key: string): boolean {
  return key.length === 1 && /\p{Script=Latin}/u.test(key);
}

const SIGNS: Readonly<Record<string, string>> = {
  ArrowLeft: '←',
  ArrowRight: '→',
  ArrowUp: '↑',
  ArrowDown: '↓',
  BracketLeft: '[',
  BracketRight: ']',
  Backslash: '\\',
};

/** A key as people read it: `Ctrl Shift Z`. */
export function readable(key: string): string {
  const parts = key.split('+').map((part) => {
    if (part === '$mod') return /Mac/.test(navigator.userAgent) ? '⌘' : 'Ctrl';
    if (/^[a-z]$/.test(part)) return part.toUpperCase();
    return SIGNS[part] ?? part.replace(/^Digit/, '');
  });
  // A character typed with Shift already says so; a key named by its place needs both.
  if (/^Shift\+\W$/.test(key)) return parts[1];
  return parts.join(' ');
}
