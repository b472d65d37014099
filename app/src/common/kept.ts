import { effect, signal, type WritableSignal } from '@angular/core';
import type { z } from 'zod';

/**
 * A signal whose value this browser keeps from one visit to the next; without a store it holds for this visit. What is kept and
 * does not fit its schema counts for nothing. Made where an effect can be.
 */
export function kept<T>(key: string, schema: z.ZodType<T>, otherwise: T): WritableSignal<T> {
  const value = signal(read(key, schema) ?? otherwise);
  effect(() => {
    const text = JSON.stringify(value());
    try {
      localStorage.setItem(key, text);
    } catch {
      // It is told nowhere: nothing is lost but a setting.
    }
  });
  return value;
}

function read<T>(key: string, schema: z.ZodType<T>): T | undefined {
  try {
    return schema.safeParse(JSON.parse(localStorage.getItem(key) ?? 'null')).data;
  } catch {
    return undefined;
  }
}
