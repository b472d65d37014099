import { computed, inject, Injectable, signal } from '@angular/core';
import { WebMidi } from '../input/web-midi';
import { ListeningSettings } from '../sound/listening-settings';
import type { OutputDevice } from './device';

/** A message as the simulated synthesizer got it. */
export interface Received {
  readonly bytes: readonly number[];
  /** When it is to sound, and how long before that it came, in ms. */
  readonly at: number;
  readonly ahead: number;
}

/** So many of the last messages are shown. */
const SHOWN = 200;

/** Stands in for a synthesizer: it shows what it gets, and for when. */
export class SimulatedSynth implements OutputDevice {
  readonly id = 'simulated';
  readonly name = 'Simulated synthesizer';
  readonly received = signal<readonly Received[]>([]);

  send(bytes: readonly number[], at: number): void {
    const ahead = at - performance.now();
    this.received.update((all) => [...all.slice(1 - SHOWN), { bytes, at, ahead }]);
  }

  clear(): boolean {
    const now = performance.now();
    this.received.update((all) => all.filter((r) => r.at <= now));
    return true;
  }
}

/** What tracks can be played on beside the voices here. */
@Injectable({ providedIn: 'root' })
export class Outputs {
  private readonly midi = inject(WebMidi);
  private readonly settings = inject(ListeningSettings);
  readonly synth = new SimulatedSynth();
  readonly all = computed((): readonly OutputDevice[] => [this.synth, ...this.midi.outputs()]);

  /** Those that run along with the song. */
  readonly clocked = computed(() => this.all().filter((d) => this.settings.values().clocked.includes(d.id)));

  /** Lets a device run along, or no longer. */
  setClocked(id: string, clocked: boolean): void {
    const others = this.settings.values().clocked.filter((known) => known !== id);
    this.settings.set({ clocked: clocked ? [...others, id] : others });
  }

  find(id: string | null): OutputDevice | null {
    return this.all().find((d) => d.id === id) ?? null;
  }
}
