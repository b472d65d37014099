import { Injectable } from '@angular/core';
import * as z from 'zod';
import { kept } from '../common/kept';

const KEY = 'early-sparrow.listening';

/** How a song is listened to; it stays from one visit to the next. */
const SettingsSchema = z.object({
  click: z.boolean(),
  /** Ticks a beat. */
  divide: z.int().min(1).max(4),
  /** Loudness of the click, 0 to 1. */
  clickLevel: z.number().min(0).max(1),
  /** Bars of clicks before the first note. */
  countIn: z.int().min(0).max(2),
  /** Whether the picture goes along with the playhead. */
  follow: z.boolean(),
  /** A tick where each note of the chosen track was meant. */
  lineTicks: z.boolean(),
  /** Whether a note sounds when it is touched in the picture. */
  touch: z.boolean().default(true),
  /** Ids of the devices that get the MIDI clock. */
  clocked: z.array(z.string()).max(100).default([]),
});
export type Settings = z.infer<typeof SettingsSchema>;

const DEFAULTS: Settings = {
  click: false,
  divide: 1,
  clickLevel: 0.7,
  countIn: 0,
  follow: true,
  lineTicks: false,
  touch: true,
  clocked: [],
};

@Injectable({ providedIn: 'root' })
export class ListeningSettings {
  readonly values = kept(KEY, SettingsSchema, DEFAULTS);

  set(change: Partial<Settings>): void {
    this.values.update((v) => ({ ...v, ...change }));
  }
}
