import { computed, inject, Injectable, signal } from '@angular/core';
import type { Control } from '@early-sparrow/core/shape';
import { ridesOf } from '@early-sparrow/core/treatment';
import { Scenery } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Shaping } from '../hand/shaping';

/** Lanes of events beside the notes. */
export const CONTROL_KINDS = ['pedal', 'bend', 'pressure', 'controller'] as const;
export type ControlKind = (typeof CONTROL_KINDS)[number];

/** Damper pedal (MIDI 1.0, controller 64). */
const DAMPER = 64;
/** Names of controllers that are drawn most (MIDI 1.0, table of controller numbers). */
const NAMES: Readonly<Record<number, string>> = {
  1: 'modulation',
  2: 'breath',
  4: 'foot',
  7: 'volume',
  10: 'pan',
  11: 'expression',
  66: 'sostenuto',
  67: 'soft pedal',
  71: 'resonance',
  74: 'brightness',
};

/** Which controller and channel each lane is about. */
@Injectable()
export class Controls {
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);
  private readonly shaping = inject(Shaping);
  /** The controller of the lane for any; null for the first that the part has. */
  readonly wanted = signal<number | null>(null);
  readonly channelWanted = signal<number | null>(null);

  /** The part's events: the same while its notes or its treatment change. */
  private readonly events = computed(() => this.scenery.part().events);

  /** Controllers that can be chosen: those of the part first. */
  readonly numbers = computed((): readonly number[] => {
    const used = new Set<number>();
    for (const e of this.events()) {
      if (e.type === 'controller' && e.controller !== DAMPER) used.add(e.controller);
    }
    const rest = Object.keys(NAMES).map(Number);
    return [...[...used].sort((a, b) => a - b), ...rest.filter((n) => !used.has(n))];
  });

  /** Channels that the part's events are on. */
  readonly channels = computed((): readonly number[] => {
    const used = new Set(this.events().map((e) => e.channel));
    return [...used].sort((a, b) => a - b);
  });

  control(kind: ControlKind): Control {
    const channel = this.channel();
    if (kind === 'pedal') return { type: 'controller', controller: DAMPER, channel };
    if (kind === 'controller') return { type: 'controller', controller: this.number(), channel };
    return { type: kind, channel };
  }

  number(): number {
    return this.wanted() ?? this.numbers()[0];
  }

  /** The one note that is selected; null for none, and for several. */
  readonly owner = computed((): number | null => (this.selecting.count() === 1 ? this.selecting.ids()[0] : null));

  /** The channel of the selected note, in a part where each has one of its own. */
  private readonly ownChannel = computed((): number | null => {
    const id = this.owner();
    if (id === null || !ridesOf(this.scenery.part(), this.scenery.track().setup)) return null;
    return this.scenery.part().notes.find((n) => n.id === id)?.channel ?? null;
  });

  channel(): number {
    const own = this.ownChannel();
    if (own !== null) return own;
    const wanted = this.channelWanted();
    const channels = this.channels();
    if (wanted !== null && channels.includes(wanted)) return wanted;
    return channels.at(0) ?? this.shaping.channel();
  }

  nameOf(controller: number): string {
    const name = NAMES[controller] as string | undefined;
    return name ? `${controller} ${name}` : String(controller);
  }
}
