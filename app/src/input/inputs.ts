import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import * as z from 'zod';
import { HeldDown, type MidiBytes, type Practice } from '@early-sparrow/core/record';
import { kept } from '../common/kept';
import { Said } from '../common/said';
import { KeysSource, ScreenSource } from './keys-source';
import type { Heard, InputSource } from './source';
import { WebMidi } from './web-midi';

const KEY = 'early-sparrow.input';
/** No device is further off than this, in ms. */
export const MOST_LATENCY = 500;

const KeptSchema = z.object({
  source: z.string(),
  /** MIDI channel from 0; null for all. */
  channel: z.int().min(0).max(15).nullable(),
  /** How late each device is, in ms. */
  latencies: z.record(z.string(), z.number().min(-MOST_LATENCY).max(MOST_LATENCY)),
});
const PLAIN: z.infer<typeof KeptSchema> = { source: 'keys', channel: null, latencies: {} };

export const PLAIN_PRACTICE: Practice = {
  late: 30,
  jitter: 12,
  drift: 0,
  wrong: 0,
  missed: 0,
  velocity: 10,
  seed: 1,
};

/** What notes are played in with: one source at a time, whichever it is. */
@Injectable({ providedIn: 'root' })
export class Inputs {
  private readonly midi = inject(WebMidi);
  private readonly said = inject(Said);
  private readonly kept = kept(KEY, KeptSchema, PLAIN);
  private readonly own = signal<readonly InputSource[]>([]);
  private readonly listeners = new Set<Heard>();
  private readonly held = new HeldDown();

  readonly screen = new ScreenSource();
  readonly practice = signal<Practice>(PLAIN_PRACTICE);
  readonly sources = computed((): readonly InputSource[] => [
    new KeysSource(),
    this.screen,
    ...this.own(),
    ...this.midi.sources(),
  ]);
  readonly chosen = computed(() => this.kept().source);
  readonly channel = computed(() => this.kept().channel);
  /** How late the chosen device is, in ms. */
  readonly latency = computed(() => this.kept().latencies[this.chosen()] ?? 0);
  /** Whether the source is listened to. */
  readonly open = signal(false);

  constructor() {
    effect((onCleanup) => {
      const source = this.source();
      if (!this.open() || !source) return;
      const unlisten = source.listen((bytes, at) => this.hear(bytes, at));
      onCleanup(() => {
        unlisten();
        untracked(() => this.letGo());
      });
    });
    this.tellUnplugged();
    // After the page has closed nothing would release what is held on an outside device.
    addEventListener('pagehide', () => this.letGo());
  }

  /** A source of the desk, such as the practice player, which hears the song. */
  add(source: InputSource): void {
    this.own.update((all) => [...all.filter((s) => s.id !== source.id), source]);
  }

  choose(id: string): void {
    this.kept.update((k) => ({ ...k, source: id }));
  }

  setChannel(channel: number | null): void {
    this.letGo();
    this.kept.update((k) => ({ ...k, channel }));
  }

  setLatency(ms: number): void {
    const held = Math.max(-MOST_LATENCY, Math.min(MOST_LATENCY, ms));
    this.kept.update((k) => ({ ...k, latencies: { ...k.latencies, [k.source]: held } }));
  }

  listen(heard: Heard): () => void {
    this.listeners.add(heard);
    return () => this.listeners.delete(heard);
  }

  private readonly source = computed(() => this.sources().find((s) => s.id === this.chosen()) ?? null, {
    // The list is made anew when a device comes or goes; the one in use goes on.
    equal: (a, b) => a?.id === b?.id,
  });

  private hear(bytes: MidiBytes, at: number): void {
    const channel = this.channel();
    if (channel !== null && (bytes[0] & 0x0f) !== channel) return;
    this.held.hear(bytes);
    for (const listener of this.listeners) listener(bytes, at);
  }

  /** Releases everything that is down: once nobody listens, its note-offs would never be heard. */
  private letGo(): void {
    for (const bytes of this.held.up()) this.hear(bytes, performance.now());
  }

  private tellUnplugged(): void {
    let name = '';
    effect(() => {
      const source = this.source();
      const open = this.open();
      if (source) name = source.name;
      else if (open && name) {
        untracked(() =>
          this.said.say(`${name} was unplugged. What you played is safe. Plug it in again, or choose another input.`),
        );
      }
    });
  }
}
