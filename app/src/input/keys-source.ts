import type { MidiBytes } from '@early-sparrow/core/record';
import type { Heard, InputSource } from './source';

/** Rows of the computer's keyboard from the bottom up; each key is a semitone above the one at its left. */
const ROWS = [
  ['KeyZ', 'KeyX', 'KeyC', 'KeyV', 'KeyB', 'KeyN', 'KeyM', 'Comma', 'Period', 'Slash'],
  ['KeyA', 'KeyS', 'KeyD', 'KeyF', 'KeyG', 'KeyH', 'KeyJ', 'KeyK', 'KeyL', 'Semicolon'],
  ['KeyQ', 'KeyW', 'KeyE', 'KeyR', 'KeyT', 'KeyY', 'KeyU', 'KeyI', 'KeyO', 'KeyP'],
];
/** The lowest key, and how much higher each row begins: a fourth, as the strings of a bass do. */
const LOWEST = 48;
const ROW_APART = 5;
const VELOCITY = 96;

const PITCHES = new Map(ROWS.flatMap((row, r) => row.map((code, i) => [code, LOWEST + r * ROW_APART + i] as const)));

/**
 * The computer's own keyboard, laid out like strings. While it is listened to its letters play; with Shift they are
 * commands as ever.
 */
export class KeysSource implements InputSource {
  readonly id = 'keys';
  readonly name = 'Computer keyboard';

  listen(heard: Heard): () => void {
    const down = new Map<string, number>();
    const press = (event: KeyboardEvent) => {
      const pitch = PITCHES.get(event.code);
      if (pitch === undefined || event.ctrlKey || event.metaKey || event.altKey || event.shiftKey || isTyping(event))
        return;
      event.preventDefault();
      event.stopPropagation();
      if (event.repeat || down.has(event.code)) return;
      down.set(event.code, pitch);
      heard([0x90, pitch, VELOCITY], event.timeStamp);
    };
    const lift = (event: KeyboardEvent) => {
      const pitch = down.get(event.code);
      if (pitch === undefined) return;
      down.delete(event.code);
      heard([0x80, pitch, 64], event.timeStamp);
    };
    // A window that loses the keyboard hears of no key that is let go.
    const lost = () => {
      for (const pitch of down.values()) heard([0x80, pitch, 64], performance.now());
      down.clear();
    };
    window.addEventListener('keydown', press, true);
    window.addEventListener('keyup', lift, true);
    window.addEventListener('blur', lost);
    return () => {
      lost();
      window.removeEventListener('keydown', press, true);
      window.removeEventListener('keyup', lift, true);
      window.removeEventListener('blur', lost);
    };
  }
}

function isTyping({ target }: KeyboardEvent): boolean {
  return target instanceof HTMLInputElement && target.type !== 'range' && target.type !== 'checkbox';
}

/** Keys on the screen: whatever is pressed there is heard here. */
export class ScreenSource implements InputSource {
  readonly id = 'screen';
  readonly name = 'Keys on the screen';
  private heard: Heard | null = null;

  listen(heard: Heard): () => void {
    this.heard = heard;
    return () => (this.heard = null);
  }

  /** @param at time of the event in ms */
  press(bytes: MidiBytes, at: number): void {
    this.heard?.(bytes, at);
  }
}
