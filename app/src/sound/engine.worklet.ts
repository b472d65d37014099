import { Engine } from './engine';
import type { ToEngine } from './engine-api';

// What the audio thread offers (Web Audio API, AudioWorkletGlobalScope), which the library of types leaves out.
declare const currentFrame: number;
declare const sampleRate: number;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(name: string, type: new () => AudioWorkletProcessor): void;

/** Two sides of one block. */
type Output = readonly (readonly [Float32Array, Float32Array])[];

class EngineProcessor extends AudioWorkletProcessor {
  private readonly engine = new Engine(sampleRate, currentFrame, (told) => this.port.postMessage(told));

  constructor() {
    super();
    this.port.onmessage = ({ data }: MessageEvent<ToEngine>) => this.engine.hear(data);
  }

  process(_inputs: unknown, [[left, right]]: Output): boolean {
    this.engine.render(left, right, currentFrame);
    return true;
  }
}

registerProcessor('early-sparrow-engine', EngineProcessor);
