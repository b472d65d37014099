import { BankSampler } from '@early-sparrow/core/bank';
import { isNoteOff, isNoteOn, type MidiBytes } from '@early-sparrow/core/record';
import { Band, Conductor, type Leg, type When } from '@early-sparrow/core/sound';
import type { FromEngine, Struck, ToEngine } from './engine-api';

/** Silence between the press of a key and the first note, in seconds: it is never cut off. */
const PAUSE = 0.02;
/** What was struck is told so often, in blocks. */
const TOLD_EVERY = 64;

/** Conductor, band and sampler on an audio thread, or wherever frames are asked for. */
export class Engine {
  private readonly band: Band;
  private readonly conductor: Conductor;
  private sampler: BankSampler | null = null;
  private watched: Struck[] | null = null;
  private notes = 0;
  private late = 0;
  private blocks = 0;

  constructor(
    private readonly rate: number,
    frame: number,
    private readonly tell: (told: FromEngine) => void,
  ) {
    this.band = new Band(rate);
    const listener = {
      leg: (leg: Leg) => tell({ tell: 'leg', leg }),
      struck: (track: string, id: number, at: number, when: When) => {
        this.notes++;
        if (when === 'late') this.late++;
        this.watched?.push({ track, id, frame: at, when });
      },
      ended: () => tell({ tell: 'ended' }),
    };
    this.conductor = new Conductor(this.band, rate, listener, frame);
  }

  hear(message: ToEngine): void {
    switch (message.say) {
      case 'track':
        this.band.setTrack(message.id, message.score);
        this.conductor.setTrack(message.id, message.score);
        break;
      case 'mix':
        this.band.setMix(message.tracks);
        for (const { id, audible } of message.tracks) this.conductor.setAudible(id, audible);
        break;
      case 'ticks':
        this.conductor.setTicks(message.ticks, message.on);
        this.band.tickGain = message.gain;
        break;
      case 'loop':
        this.conductor.setLoop(message.loop);
        break;
      case 'end':
        this.conductor.setEnd(message.end);
        break;
      case 'rate':
        this.conductor.setRate(message.rate);
        break;
      case 'start':
        this.conductor.start(message.from, PAUSE, message.lead);
        break;
      case 'stop':
        this.conductor.stop();
        break;
      case 'live':
        this.live(message.track, message.bytes);
        break;
      case 'sound':
        this.addSound(message);
        break;
      case 'file':
        this.band.setFile(message.id, message.file);
        break;
      case 'no-sounds':
        this.sampler = null;
        this.band.setSampler(null);
        break;
      case 'watch':
        this.watched = [];
        break;
    }
  }

  /** @param frame of the device that comes next */
  render(left: Float32Array, right: Float32Array, frame: number): void {
    this.conductor.at(frame);
    this.conductor.render(left, right);
    if (++this.blocks % TOLD_EVERY !== 0) return;
    if (this.notes > 0) this.tell({ tell: 'struck', notes: this.notes, late: this.late });
    this.notes = this.late = 0;
    if (this.watched && this.watched.length > 0) {
      this.tell({ tell: 'watched', struck: this.watched });
      this.watched = [];
    }
  }

  private live(track: string, bytes: MidiBytes): void {
    const [status, first, second] = bytes;
    if (isNoteOn(bytes)) this.band.noteOn(track, 0, first, second);
    else if (isNoteOff(bytes)) this.band.noteOff(track, 0, first);
    else this.band.message(track, 0, status & 0xf0, first, second);
  }

  private addSound({ program, drums, bytes }: ToEngine & { say: 'sound' }): void {
    if (!this.sampler) {
      this.sampler = new BankSampler(this.rate);
      this.band.setSampler(this.sampler);
    }
    this.sampler.add(program, drums, bytes);
    this.band.soundsChanged();
  }
}
