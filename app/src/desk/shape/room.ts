import type { Provider } from '@angular/core';
import { providePointer } from '../kit/pointer';
import { provideVerbs } from '../kit/verb';
import { DrawGesture } from './draw-gesture';
import { Drawing } from './drawing';
import { Sweeps } from './sweep';
import { shapeVerbs } from './verbs';

/** Handwork on notes: drawing, verbs at the pointer, lanes, and commands on what is selected. */
export const shapeRoom: Provider[] = [Drawing, Sweeps, providePointer(DrawGesture), provideVerbs(shapeVerbs)];
