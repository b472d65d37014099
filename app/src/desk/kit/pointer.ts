import { InjectionToken, type Type, type Provider } from '@angular/core';

/** A place in the picture in px, with what else the pointer says. */
export type At = Pick<PointerEvent, 'offsetX' | 'offsetY' | 'ctrlKey' | 'metaKey' | 'shiftKey' | 'altKey' | 'button'>;

/** Where the pointer is at an event. An event that is kept tells another place once its element has moved (seen in Firefox). */
export function placeOf({ offsetX, offsetY, ctrlKey, metaKey, shiftKey, altKey, button }: At): At {
  return { offsetX, offsetY, ctrlKey, metaKey, shiftKey, altKey, button };
}

/** Places on the way from one to another, `px` apart at most, with the last: a fast pointer leaves nothing out. */
export function onTheWay(from: At, to: At, px: number): At[] {
  const [dx, dy] = [to.offsetX - from.offsetX, to.offsetY - from.offsetY];
  const count = Math.max(1, Math.ceil(Math.hypot(dx, dy) / px));
  return Array.from({ length: count }, (_, k) => {
    const share = (k + 1) / count;
    return { ...to, offsetX: from.offsetX + dx * share, offsetY: from.offsetY + dy * share };
  });
}

/** A rectangle in the picture, in px. */
export interface Box {
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
}

/** The rectangle between two places. */
export function boxBetween(from: Pick<At, 'offsetX' | 'offsetY'>, to: Pick<At, 'offsetX' | 'offsetY'>): Box {
  return {
    x: Math.min(from.offsetX, to.offsetX),
    y: Math.min(from.offsetY, to.offsetY),
    w: Math.abs(to.offsetX - from.offsetX),
    h: Math.abs(to.offsetY - from.offsetY),
  };
}

/** What the pointer is doing since it was pressed: it can be followed, let go, or taken back. */
export interface Gesture {
  readonly kind: string;
  /** Which ways the picture scrolls along where it is dragged over the edge; left out for none. */
  readonly scrolls?: 'sideways' | 'both' | undefined;
  move(at: At): void;
  drop(at: At): void;
  cancel(): void;
}

/** What is under the pointer, and what can be done with it. */
export interface Under {
  /** The shape of the pointer: it tells what pressing does. */
  readonly cursor: string;
  /** What pressing does, in a sentence, where that needs saying. */
  readonly hint?: string;
  /** Id of the note that it is. */
  readonly note?: number;
  /** Pressed and moved. The place moves with the picture if that is scrolled meanwhile. */
  readonly press?: (at: At) => Gesture;
  /** Pressed and let go. */
  readonly click?: (at: At) => void;
  /** Pressed twice. */
  readonly double?: (at: At) => void;
  /** Pressed a second time, and held. */
  readonly again?: (at: At) => Gesture;
}

/** Tells what is under a place of the picture; null where it is not its matter. */
export interface PointerSource {
  /** Sources with a lower one are asked first. */
  readonly order: number;
  under(at: At): Under | null;
}

/** The gestures that rooms of the desk contribute. */
export const POINTER = new InjectionToken<readonly PointerSource[]>('pointer');

/** In which order sources are asked: what goes everywhere, the ruler, the keys, lanes, notes, and what is empty. */
export const ORDER = { everywhere: 0, ruler: 1, keys: 2, lanes: 3, notes: 4, empty: 5 } as const;

export function providePointer(source: Type<PointerSource>): Provider[] {
  return [source, { provide: POINTER, multi: true, useExisting: source }];
}
