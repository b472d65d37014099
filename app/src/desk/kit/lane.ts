import { InjectionToken, type Provider, type Type } from '@angular/core';
import type { At, Box, Gesture, Under } from './pointer';
import type { Scene } from './draw';
import type { Frame } from './frame';

/** A strip under the roll, along the same time: offsets, sound files, velocities. */
export interface Lane {
  readonly id: string;
  readonly name: string;
  /** Lanes with a lower one lie above. */
  readonly order: number;
  /** In px; 0 while it has nothing to show. */
  height(): number;
  draw(scene: Scene, frame: Frame): void;
  /** Everything that its drawing depends on, beside the view: it is drawn anew when one of these is another. */
  looks(): readonly unknown[];
  /** What is under a place in it; null where nothing is. */
  under(at: At, frame: Frame): Under | null;
  /** A sweep that erases what the pointer comes by, where that is no notes. */
  erasing?(at: At, frame: Frame): Gesture;
  /** Ids of the notes whose marks lie in a rectangle. */
  inside(box: Box, frame: Frame): readonly number[];
  /** Whether the pointer selects in it with Alt, which else drags the picture. */
  readonly framesByAlt?: boolean;
  /** What lies over its upper edge. */
  readonly head?: Type<unknown>;
  /** Inputs of its head. */
  readonly headInputs?: Record<string, unknown>;
}

/** The lanes that rooms of the desk contribute. */
export const LANES = new InjectionToken<readonly Lane[]>('lanes');

export function provideLane(lane: Type<Lane>): Provider[] {
  return [lane, { provide: LANES, multi: true, useExisting: lane }];
}
