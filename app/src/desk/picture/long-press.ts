/** A finger that stays for so long has pressed long, in ms. */
const LONG_MS = 550;

/** Notices a finger or a pen that stays where it was put down. */
export class LongPress {
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly held: (event: PointerEvent) => void) {}

  begin(event: PointerEvent): void {
    this.end();
    if (event.pointerType === 'mouse') return;
    this.timer = setTimeout(() => this.held(event), LONG_MS);
  }

  end(): void {
    clearTimeout(this.timer);
  }
}
