import type { Page } from '@playwright/test';

/** A note as the audio thread itself reports it. */
export interface Struck {
  readonly track: string;
  readonly id: number;
  readonly frame: number;
  /** On its frame; at once, since a change moved it over the playhead; or late. */
  readonly when: 'due' | 'moved' | 'late';
  /** Frames a second. */
  readonly rate: number;
}

/** Has the audio thread report each note that it strikes. */
export async function watchSound(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const heard: unknown[] = [];
    const legs: unknown[] = [];
    Object.assign(window, { heard, legs });
    window.AudioWorkletNode = class extends AudioWorkletNode {
      constructor(context: BaseAudioContext, name: string, options?: AudioWorkletNodeOptions) {
        super(context, name, options);
        this.port.postMessage({ say: 'watch' });
        this.port.addEventListener(
          'message',
          ({ data }: MessageEvent<{ tell: string; struck?: object[]; leg?: object }>) => {
            const rate = context.sampleRate;
            if (data.tell === 'leg') legs.push(data.leg);
            if (data.tell === 'watched') heard.push(...(data.struck ?? []).map((s) => ({ ...s, rate })));
          },
        );
      }
    };
  });
}

/** What was struck, once it is at least so many notes. */
export async function struck(page: Page, least: number): Promise<Struck[]> {
  const found = await page.waitForFunction(
    (n) => {
      const { heard } = window as unknown as { heard: Struck[] };
      return heard.length >= n ? heard : null;
    },
    least,
    { timeout: 60_000 },
  );
  return (await found.jsonValue()) as Struck[];
}

/** Frames for which the song has stood still in all, each time the audio thread told of it; the first is 0. */
export async function stoodStill(page: Page): Promise<number[]> {
  const told = await page.waitForFunction(() => {
    const { legs } = window as unknown as { legs: { frame: number }[] };
    return legs.length > 0 ? legs.map((leg) => leg.frame - legs[0].frame) : null;
  });
  return (await told.jsonValue()) as number[];
}
