import { heardIn, type Leg, type MsSpan } from '@early-sparrow/core/sound';
import type { FromEngine, ToEngine } from './engine-api';
import { HeardClock } from './heard-clock';

/** Frames that are asked for at a time where there is no audio thread. */
const SCRIPT_FRAMES = 1024;
/** The audio clock is held against the computer's own so often, in ms. */
const CHECK_MS = 500;
/** So many legs are remembered: what is played in is told a moment after it was heard. */
const LEGS = 64;

/** A difference of the clocks that the ear notices as a gap, in ms. */
const GAP_MS = 25;

/** Without a sound device the engine is run so often, in ms. */
const SILENT_MS = 20;
/** A sound device that does not answer for so long is not there, in ms. */
const NO_ANSWER_MS = 4000;

/** The browser has no sound device to play on. */
export class NoSoundDevice extends Error {}

/**
 * The browser's audio engine with ours on its audio thread; on the main thread where the browser has none for pages
 * that come over an unsafe connection. Silent, it is ours alone, by the computer's clock: the playhead runs as ever.
 */
export class SoundDevice {
  readonly context = new AudioContext({ latencyHint: 'interactive' });
  private readonly meter = new AnalyserNode(this.context, { fftSize: 1024 });
  private readonly samples = new Float32Array(this.meter.fftSize);
  private post: (message: ToEngine, transfer?: Transferable[]) => void = () => undefined;
  private legs: Leg[] = [];
  /** The loop by which turns are reckoned, and the one that is from the next leg on. */
  private loop: MsSpan | null = null;
  private loopNext: MsSpan | null = null;
  private readonly heard = new HeardClock(this.context);
  private listeners: ((told: FromEngine) => void)[] = [];
  private check: ReturnType<typeof setInterval> | undefined;
  /** Gaps since the last start: times at which the audio thread did not keep up. */
  gaps = 0;

  private ticking: ReturnType<typeof setInterval> | undefined;

  private constructor(private readonly silent: boolean) {
    this.meter.connect(this.context.destination);
  }

  /** @param silent nothing is to be heard: there is no sound device */
  static async open(silent = false): Promise<SoundDevice> {
    const device = new SoundDevice(silent);
    await (silent ? device.connectSilent() : device.connect());
    return device;
  }

  say(message: ToEngine, transfer: Transferable[] = []): void {
    if (message.say === 'loop') this.setLoop(message.loop);
    this.post(message, transfer);
  }

  listen(listener: (told: FromEngine) => void): void {
    this.listeners.push(listener);
  }

  /** Wakes the audio engine; browsers want a key or a click before. @throws NoSoundDevice */
  async wake(): Promise<void> {
    if (this.silent || this.context.state === 'running') return;
    // Some browsers never answer where there is no device.
    await new Promise<void>((done, fail) => {
      const given = setTimeout(() => fail(new NoSoundDevice()), NO_ANSWER_MS);
      void this.context
        .resume()
        .then(done, fail)
        .finally(() => clearTimeout(given));
    });
  }

  /** Lets the audio engine rest. */
  async sleep(): Promise<void> {
    if (!this.silent && this.context.state === 'running') await this.context.suspend();
  }

  /**
   * Song time in ms, and the round of the loop, that is heard at a time; null while nothing plays.
   * @param at of the page's own clock, in ms
   */
  heardAt(at = performance.now()): { readonly ms: number; readonly round: number } | null {
    const heard = (at / 1000 + this.clock()) * this.context.sampleRate;
    const leg = this.legs.findLast((l) => l.frame <= heard) ?? this.legs.at(0);
    if (!leg) return null;
    return heardIn(leg, heard, this.context.sampleRate, this.loop);
  }

  /** Time of the page's clock at which a leg begins to be heard, in ms. */
  timeOf({ frame }: Leg): number {
    return (frame / this.context.sampleRate - this.clock()) * 1000;
  }

  /** Song time in ms that is heard now; null while nothing plays. */
  position(): number | null {
    return this.heardAt()?.ms ?? null;
  }

  /** As {@link HeardClock.offset}. */
  private clock(): number {
    // What is reckoned now would be heard now.
    return this.silent ? 0 : this.heard.offset();
  }

  /** Loudness now, in dB below full scale. */
  level(): number {
    if (this.silent) return -Infinity;
    this.meter.getFloatTimeDomainData(this.samples);
    const power = this.samples.reduce((sum, s) => sum + s * s, 0) / this.samples.length;
    return 10 * Math.log10(power);
  }

  /** Forgets where it was: what comes next begins anew. */
  begin(): void {
    this.legs = [];
    this.heard.begin();
    this.gaps = 0;
    clearInterval(this.check);
    if (this.silent) return;
    let [audio, own] = [this.context.currentTime * 1000, performance.now()];
    let first = true;
    this.check = setInterval(() => {
      const [a, o] = [this.context.currentTime * 1000, performance.now()];
      // While a page is in the background, or the engine wakes, the clocks say nothing.
      if (!first && !document.hidden && o - own < CHECK_MS * 2 && o - own - (a - audio) > GAP_MS) this.gaps++;
      first = false;
      [audio, own] = [a, o];
    }, CHECK_MS);
  }

  finish(): void {
    clearInterval(this.check);
    this.legs = [];
  }

  private async connect(): Promise<void> {
    // Only pages from this machine or over a safe connection have an audio thread.
    const worklet = this.context.audioWorklet as AudioWorklet | undefined;
    if (!worklet) {
      await this.connectScript();
      return;
    }
    await worklet.addModule('sound-engine.js');
    const node = new AudioWorkletNode(this.context, 'early-sparrow-engine', {
      numberOfInputs: 0,
      outputChannelCount: [2],
    });
    node.port.onmessage = ({ data }: MessageEvent<FromEngine>) => this.hear(data);
    this.post = (message, transfer = []) => node.port.postMessage(message, transfer);
    node.connect(this.meter);
  }

  private async connectScript(): Promise<void> {
    const { context } = this;
    const { Engine } = await import('./engine');
    const node = context.createScriptProcessor(SCRIPT_FRAMES, 0, 2);
    const engine = new Engine(context.sampleRate, Math.round(context.currentTime * context.sampleRate), (told) =>
      this.hear(told),
    );
    node.onaudioprocess = ({ outputBuffer, playbackTime }) => {
      const frame = Math.round(playbackTime * context.sampleRate);
      engine.render(outputBuffer.getChannelData(0), outputBuffer.getChannelData(1), frame);
    };
    this.post = (message) => engine.hear(message);
    node.connect(this.meter);
  }

  /** The engine by the page's own clock, for as long as the page is there. */
  private async connectSilent(): Promise<void> {
    const { Engine } = await import('./engine');
    const { sampleRate } = this.context;
    const now = () => Math.round((performance.now() / 1000) * sampleRate);
    let at = now();
    const engine = new Engine(sampleRate, at, (told) => this.hear(told));
    const [left, right] = [new Float32Array(SCRIPT_FRAMES), new Float32Array(SCRIPT_FRAMES)];
    const run = () => {
      // A page that was asleep goes on from where it is now.
      at = Math.max(at, now() - sampleRate);
      for (; at + SCRIPT_FRAMES <= now(); at += SCRIPT_FRAMES) engine.render(left, right, at);
    };
    this.post = (message) => engine.hear(message);
    this.ticking = setInterval(run, SILENT_MS);
  }

  /** Ends it for good. */
  close(): void {
    clearInterval(this.ticking);
    clearInterval(this.check);
    void this.context.close();
  }

  /** To a loop that is set behind what is heard the engine goes at once, and tells so: that is no turn of it. */
  private setLoop(loop: MsSpan | null): void {
    const heard = this.position();
    this.loopNext = loop;
    this.loop = loop && heard !== null && heard >= loop.to ? null : loop;
  }

  private hear(told: FromEngine): void {
    if (told.tell === 'leg') {
      this.legs = [...this.legs, told.leg].slice(-LEGS);
      this.loop = this.loopNext;
    }
    for (const listener of this.listeners) listener(told);
  }
}
