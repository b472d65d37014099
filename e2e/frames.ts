import type { Page } from '@playwright/test';

/** How long frames took, in ms, and the longest task between them. */
export interface Frames {
  readonly p95: number;
  readonly longest: number;
}

/** The frames of the page while something is done. */
export async function frames(page: Page, act: () => Promise<void>): Promise<Frames> {
  await page.evaluate(() => {
    const w = window as unknown as { times: number[]; long: number[]; run: boolean };
    w.times = [];
    w.long = [];
    w.run = true;
    new PerformanceObserver((list) => w.long.push(...list.getEntries().map((e) => e.duration))).observe({
      type: 'longtask',
    });
    let last = performance.now();
    const step = (now: number) => {
      w.times.push(now - last);
      last = now;
      if (w.run) requestAnimationFrame(step);
    };
    requestAnimationFrame(step);
  });
  await act();
  return page.evaluate(() => {
    const w = window as unknown as { times: number[]; long: number[]; run: boolean };
    w.run = false;
    const sorted = w.times.sort((a, b) => a - b);
    return { p95: sorted[Math.floor(sorted.length * 0.95)], longest: Math.max(0, ...w.long) };
  });
}

/** How often each layer of the picture is painted while something is done: grid, notes, lanes, and what lies over them. */
export async function paints(page: Page, act: () => Promise<unknown>): Promise<readonly number[]> {
  await page.evaluate(() => {
    const layers = [...document.querySelectorAll('es-timing-view .canvas canvas')];
    const counts = layers.map(() => 0);
    Object.assign(window, { paints: counts });
    layers.forEach((layer, i) => {
      const ctx = (layer as HTMLCanvasElement).getContext('2d')!;
      // Each painting begins with it.
      ctx.setTransform = ((...matrix: [DOMMatrix2DInit]) => {
        counts[i]++;
        CanvasRenderingContext2D.prototype.setTransform.apply(ctx, matrix);
      }) as typeof ctx.setTransform;
    });
  });
  await act();
  return page.evaluate(() => (window as unknown as { paints: readonly number[] }).paints);
}
