import { Injectable, signal } from '@angular/core';
import { messageOf } from '@early-sparrow/core/record';
import type { OutputDevice } from '../output/device';
import type { Heard, InputSource } from './source';

/** A MIDI input of the computer. */
class DeviceSource implements InputSource {
  readonly id: string;
  readonly name: string;

  constructor(private readonly input: MIDIInput) {
    this.id = `midi:${input.id}`;
    this.name = input.name || 'Unnamed MIDI device';
  }

  listen(heard: Heard): () => void {
    const listener = ({ data, timeStamp }: MIDIMessageEvent) => {
      const bytes = data && messageOf(data);
      if (bytes) heard(bytes, timeStamp);
    };
    this.input.addEventListener('midimessage', listener);
    return () => this.input.removeEventListener('midimessage', listener);
  }
}

/** A MIDI output of the computer. */
class DeviceOutput implements OutputDevice {
  readonly id: string;
  readonly name: string;

  constructor(private readonly output: MIDIOutput) {
    this.id = `midi:${output.id}`;
    this.name = output.name || 'Unnamed MIDI device';
  }

  send(bytes: readonly number[], at: number): void {
    // One that was unplugged takes nothing any more.
    if (this.output.state === 'connected') this.output.send([...bytes], at);
  }

  clear(): boolean {
    const output: MIDIOutput & { readonly clear?: () => void } = this.output;
    output.clear?.();
    return output.clear !== undefined;
  }
}

/** The MIDI devices of the computer (Web MIDI API), once the user has allowed them. */
@Injectable({ providedIn: 'root' })
export class WebMidi {
  readonly sources = signal<readonly InputSource[]>([]);
  readonly outputs = signal<readonly OutputDevice[]>([]);
  readonly allowed = signal(false);
  /** What stands in the way, in a sentence. */
  readonly problem = signal('');

  /** Asks the browser for the devices. */
  async ask(): Promise<void> {
    // Browsers without the interface, and pages over an unsafe connection, have no such function.
    const request = (navigator as { requestMIDIAccess?: () => Promise<MIDIAccess> }).requestMIDIAccess;
    if (!request) {
      this.problem.set('This browser does not support MIDI devices. Play on the computer keyboard or on the screen.');
      return;
    }
    try {
      const access = await request.call(navigator);
      this.allowed.set(true);
      this.problem.set('');
      const list = () => {
        this.sources.set([...access.inputs.values()].map((input) => new DeviceSource(input)));
        this.outputs.set([...access.outputs.values()].map((output) => new DeviceOutput(output)));
      };
      access.addEventListener('statechange', list);
      list();
    } catch {
      this.problem.set(
        'The browser blocks MIDI devices on this page. Allow them in its site settings, or play on the computer keyboard or on the screen.',
      );
    }
  }
}
