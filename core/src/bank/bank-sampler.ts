import { DEFAULT_MIDI_CONTROLLERS, SoundBankLoader, SpessaSynthProcessor, type MIDIController } from 'spessasynth_core';
import type { Sampler } from '../sound';

/** The synthesizer renders no more frames at a time. */
const BLOCK = 128;
/** Voices at once; the oldest end for new ones beyond. */
const VOICES = 256;
/** Makes it as loud as the small voices are. */
const GAIN = 2.4;

/** These are commands, or say which parameter the next value is of. */
const COMMANDS = new Set([0, 6, 32, 38, 96, 97, 98, 99, 100, 101]);
/** Of a controller at a channel's beginning, 0 to 127. */
const beginning = (controller: number): number => DEFAULT_MIDI_CONTROLLERS[controller] >> 7;
const CONTROLLERS = Array.from({ length: 120 }, (_, c) => c).filter((c) => !COMMANDS.has(c));

/**
 * Plays sounds that were taken out of a bank. Dry: a room would blur what is listened for.
 */
export class BankSampler implements Sampler {
  private readonly synth: SpessaSynthProcessor;
  private readonly sounds = new Set<string>();
  /** Controllers that were moved on each channel since its beginning; a channel that was made later has none set. */
  private readonly moved: Set<number>[] = [];
  private readonly asked = new Map<number, { program: number; drums: boolean }>();

  constructor(rate: number) {
    this.synth = new SpessaSynthProcessor(rate, { effectsEnabled: false, eventsEnabled: false, maxBufferSize: BLOCK });
    this.synth.setSystemParameter('voiceCap', VOICES);
    this.synth.setSystemParameter('gain', GAIN);
    // A sound that is missing is played by others, never by one that happens to be near.
    this.synth.onMissingPreset = () => undefined;
  }

  /** Takes a sound into use, as `BankFile.extract` gives it. */
  add(program: number, drums: boolean, bytes: ArrayBuffer): void {
    const name = nameOf(program, drums);
    if (this.sounds.has(name)) return;
    const bank = SoundBankLoader.fromArrayBuffer(bytes);
    // A kit that stands in for another is found by the number that was asked for.
    for (const preset of bank.presets) preset.program = program;
    bank.flush();
    this.synth.soundBankManager.addSoundBank(bank, name);
    this.sounds.add(name);
    for (const [channel, sound] of this.asked) {
      if (nameOf(sound.program, sound.drums) === name) this.synth.programChange(channel, program);
    }
  }

  has(program: number, drums: boolean): boolean {
    return this.sounds.has(nameOf(program, drums));
  }

  reset(channel: number, program: number, drums: boolean): void {
    while (this.synth.midiChannels.length <= channel) this.synth.createMIDIChannel();
    const moved = this.moved[channel] ?? CONTROLLERS;
    this.moved[channel] = new Set();
    this.asked.set(channel, { program, drums });
    const own = this.synth.midiChannels[channel];
    if (own.drumChannel !== drums) own.setDrums(drums);
    this.control(channel, 121, 0);
    for (const controller of moved) this.control(channel, controller, beginning(controller));
    this.synth.pitchWheel(channel, 8192);
    this.synth.programChange(channel, program);
  }

  message(channel: number, status: number, first: number, second: number): void {
    switch (status) {
      case 0x80:
        this.synth.noteOff(channel, first);
        break;
      case 0x90:
        this.synth.noteOn(channel, first, second);
        break;
      case 0xa0:
        this.synth.polyPressure(channel, first, second);
        break;
      case 0xb0:
        if (!COMMANDS.has(first) && first < 120) this.moved[channel]?.add(first);
        this.control(channel, first, second);
        break;
      case 0xc0:
        this.synth.programChange(channel, first);
        break;
      case 0xd0:
        this.synth.channelPressure(channel, first);
        break;
      case 0xe0:
        this.synth.pitchWheel(channel, first | (second << 7));
        break;
    }
  }

  mix(channel: number, gain: number, pan: number): void {
    const own = this.synth.midiChannels[channel];
    own.setSystemParameter('gain', gain);
    own.setSystemParameter('pan', pan);
  }

  silence(): void {
    this.synth.stopAllChannels();
    for (let c = 0; c < this.synth.midiChannels.length; c++) this.control(c, 64, 0);
  }

  render(left: Float32Array, right: Float32Array, from: number, count: number): void {
    for (let done = 0; done < count; done += BLOCK) {
      this.synth.process(left, right, from + done, Math.min(BLOCK, count - done));
    }
  }

  private control(channel: number, controller: number, value: number): void {
    // Every number from 0 to 127 is one.
    this.synth.controllerChange(channel, controller as MIDIController, value);
  }
}

function nameOf(program: number, drums: boolean): string {
  return `${drums ? 'kit' : 'program'} ${program}`;
}
