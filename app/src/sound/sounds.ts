import { effect, inject, Injectable, signal } from '@angular/core';
import type { BankSound } from '@early-sparrow/core/bank';
import type { Sound } from '@early-sparrow/core/sound';
import { Bank } from './bank';
import type { SoundDevice } from './sound-device';

/** Brings the sounds that a song asks for from the bank to the engine, each once; small voices play until they are there. */
@Injectable({ providedIn: 'root' })
export class Sounds {
  private readonly bank = inject(Bank);
  private readonly device = signal<SoundDevice | null>(null);
  private readonly wanted = signal(false);
  private readonly needed = signal<readonly Sound[]>([]);
  private sent = new Set<string>();
  private of: readonly BankSound[] = [];

  constructor() {
    effect(() => {
      const device = this.device();
      if (!device || !this.wanted()) return;
      this.forgetOld(device);
      for (const sound of this.needed()) void this.bring(sound, device);
    });
  }

  use(device: SoundDevice): void {
    this.device.set(device);
  }

  /** Sound is wanted: from now on the bank is worth loading. */
  want(): void {
    this.wanted.set(true);
    void this.bank.load();
  }

  need(sounds: readonly Sound[]): void {
    this.needed.set(sounds);
  }

  /** With another bank all its sounds are brought anew; it may have the name of the one before. */
  private forgetOld(device: SoundDevice): void {
    const sounds = this.bank.sounds();
    if (this.of === sounds) return;
    this.sent = new Set();
    if (this.of.length > 0) device.say({ say: 'no-sounds' });
    this.of = sounds;
  }

  private async bring(sound: Sound, device: SoundDevice): Promise<void> {
    const key = `${sound.drums} ${sound.program}`;
    if (this.sent.has(key) || this.bank.sounds().length === 0) return;
    this.sent.add(key);
    const { sent } = this;
    const bytes = await this.bank.sound(sound);
    if (bytes && sent === this.sent) device.say({ say: 'sound', ...sound, bytes }, [bytes]);
  }
}
