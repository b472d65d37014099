import { signal } from '@angular/core';
import { SoundDevice } from './sound-device';

/** The audio engine sleeps when nothing has been played for so long, in ms. */
const SLEEPS_AFTER = 20_000;

/** The sound device: opened once, awake while something sounds, at rest some time after. */
export class WakingDevice {
  private readonly opened = signal<SoundDevice | null>(null);
  private opening: Promise<SoundDevice> | null = null;
  private silent = false;
  /** Set once sound was wanted: from then on the player says when it may sleep. */
  private woken = false;
  private sleeping: ReturnType<typeof setTimeout> | undefined;

  /** Null until it is open. */
  readonly device = this.opened.asReadonly();

  /** @param made is told of the device before anybody else has it */
  constructor(private readonly made: (device: SoundDevice) => void) {}

  /** Makes it ready before sound is wanted: then the first note comes at once. If nothing is played, it goes to sleep again. */
  prepare(): void {
    // Where it fails it is tried again when sound is wanted, and told then.
    void this.ready().then(
      () => !this.woken && this.restLater(),
      () => undefined,
    );
  }

  /** Opens and wakes it. Rejects where the browser gives no sound. */
  async wake(): Promise<void> {
    this.woken = true;
    const device = await this.ready();
    clearTimeout(this.sleeping);
    await device.wake();
  }

  /** From here on nothing is heard, and no sound device is asked for. */
  goSilent(): void {
    this.device()?.close();
    this.silent = true;
    this.opening = null;
    this.opened.set(null);
  }

  restLater(): void {
    clearTimeout(this.sleeping);
    this.sleeping = setTimeout(() => void this.device()?.sleep(), SLEEPS_AFTER);
  }

  private ready(): Promise<SoundDevice> {
    this.opening ??= this.make().catch((error: unknown) => {
      this.opening = null;
      throw error;
    });
    return this.opening;
  }

  private async make(): Promise<SoundDevice> {
    const device = await SoundDevice.open(this.silent);
    this.made(device);
    this.opened.set(device);
    return device;
  }
}
