import { InjectionToken, type Provider, type Type } from '@angular/core';
import type { Scene } from './draw';

/** What is drawn over the notes. */
export interface Overlay {
  draw(scene: Scene): void;
  /** Reads every signal that its drawing depends on. */
  depends(): void;
}

/** What rooms of the desk draw over the notes. */
export const OVERLAYS = new InjectionToken<readonly Overlay[]>('overlays');

export function provideOverlay(overlay: Type<Overlay>): Provider[] {
  return [overlay, { provide: OVERLAYS, multi: true, useExisting: overlay }];
}
