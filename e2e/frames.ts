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

/** Frames in which the picture's grid was empty while something was done, and how many there were in all. */
export async function emptyFrames(page: Page, act: () => Promise<unknown>): Promise<{ empty: number; all: number }> {
  await page.evaluate(() => {
    const grid = document.querySelector<HTMLCanvasElement>('es-timing-view .canvas canvas')!;
    const seen = { empty: 0, all: 0 };
    Object.assign(window, { seen });
    // A message that is sent in a frame comes once the frame was painted.
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = () => {
      const { data } = grid.getContext('2d')!.getImageData(0, 0, grid.width, grid.height);
      seen.all++;
      if (!data.some((value) => value > 0)) seen.empty++;
    };
    const step = () => {
      port2.postMessage(null);
      requestAnimationFrame(step);
    };
    requestAnimationFrame(step);
  });
  await act();
  return page.evaluate(() => (window as unknown as { seen: { empty: number; all: number } }).seen);
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
