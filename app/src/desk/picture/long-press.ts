import { placeOf, type At } from '../kit/pointer';

/** A finger that stays for so long has pressed long, in ms. */
const LONG_MS = 550;

/** Notices a finger or a pen that stays where it was put down. */
export class LongPress {
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly held: (at: At) => void) {}

  begin(event: PointerEvent): void {
    this.end();
    if (event.pointerType === 'mouse') return;
    const at = placeOf(event);
    this.timer = setTimeout(() => this.held(at), LONG_MS);
  }

  end(): void {
    clearTimeout(this.timer);
  }
}
