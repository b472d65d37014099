import { ChangeDetectionStrategy, Component, computed, effect, inject, type OnDestroy, signal } from '@angular/core';
import type { Practice } from '@early-sparrow/core/record';
import type { Option } from '../../common/option';
import { counted, pitchName } from '../../common/format';
import { PickOne } from '../../common/pick-one';
import { Inputs } from '../../input/inputs';
import { WebMidi } from '../../input/web-midi';
import { Player } from '../../sound/player';
import { Choice } from '../controls/choice';
import { Panels } from '../kit/panels';
import { Calibrator } from './calibrator';
import { Recorder } from './recorder';

const ALL = 'all';
const LOWEST = 48;
const KEYS = 37;
const BLACK = new Set([1, 3, 6, 8, 10]);
const VELOCITY = 96;
/** Controller of the damper pedal (MIDI 1.0). */
const DAMPER = 64;

type Amount = 'late' | 'jitter' | 'drift' | 'wrong' | 'missed' | 'velocity';

/** What is played in with, where it goes, and how late the device is. */
@Component({
  selector: 'es-recording-strip',
  imports: [Choice, PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './recording-strip.html',
  styleUrl: './recording-strip.scss',
})
export class RecordingStrip implements OnDestroy {
  protected readonly panels = inject(Panels);
  protected readonly inputs = inject(Inputs);
  protected readonly midi = inject(WebMidi);
  protected readonly recorder = inject(Recorder);
  protected readonly calibrator = inject(Calibrator);
  private readonly player = inject(Player);
  protected readonly pedalDown = signal(false);
  /** Keys on the screen that are pressed. */
  private readonly down = new Set<number>();

  protected readonly sources = computed((): Option[] =>
    this.inputs.sources().map((s) => ({ value: s.id, text: s.name })),
  );
  protected readonly channels: readonly Option[] = [
    { value: ALL, text: 'All channels' },
    ...Array.from({ length: 16 }, (_, c) => ({ value: `${c}`, text: `Channel ${c + 1}` })),
  ];
  protected readonly channel = computed(() => `${this.inputs.channel() ?? ALL}`);
  protected readonly intos: readonly Option[] = [
    { value: 'new', text: 'a new track' },
    { value: 'add', text: 'this part, added' },
    { value: 'replace', text: 'this part, replaced' },
  ];
  protected readonly keys = Array.from({ length: KEYS }, (_, k) => LOWEST + k).map((pitch) => ({
    pitch,
    name: pitchName(pitch),
    black: BLACK.has(pitch % 12),
  }));
  protected readonly amounts: readonly { key: Amount; text: string; min: number; max: number; unit: string }[] = [
    { key: 'late', text: 'Late', min: -100, max: 100, unit: 'ms' },
    { key: 'jitter', text: 'Jitter', min: 0, max: 50, unit: 'ms' },
    { key: 'drift', text: 'Drift', min: 0, max: 100, unit: 'ms' },
    { key: 'wrong', text: 'Wrong notes', min: 0, max: 50, unit: '%' },
    { key: 'missed', text: 'Missed notes', min: 0, max: 50, unit: '%' },
    { key: 'velocity', text: 'Velocity', min: 0, max: 60, unit: '±' },
  ];
  protected readonly outside = computed(() => `Add ${counted(this.recorder.outside().length, 'note')} played outside`);
  protected readonly words = computed(() => {
    const ms = this.inputs.latency();
    if (ms === 0) return 'No compensation';
    return `Notes are moved ${Math.abs(ms)} ms ${ms > 0 ? 'earlier' : 'later'}`;
  });

  constructor() {
    // Once the screen keys are no longer the input, everything has been released.
    effect(() => {
      if (this.inputs.open() && this.inputs.chosen() === this.inputs.screen.id) return;
      this.down.clear();
      this.pedalDown.set(false);
    });
  }

  protected async listen(): Promise<void> {
    const open = !this.inputs.open();
    this.inputs.open.set(open);
    if (open) await this.player.wake();
  }

  protected setChannel(value: string): void {
    this.inputs.setChannel(value === ALL ? null : +value);
  }

  protected practice(key: Amount): number {
    const value = this.inputs.practice()[key];
    return isShare(key) ? Math.round(value * 100) : value;
  }

  protected setPractice(key: Amount, value: number): void {
    this.inputs.practice.update((p: Practice) => ({ ...p, [key]: isShare(key) ? value / 100 : value }));
  }

  /** Where the keyboard holds a key down it comes again and again. */
  protected press(pitch: number, event: PointerEvent | KeyboardEvent): void {
    const isKey = event instanceof KeyboardEvent;
    if (isKey ? event.repeat : event.button !== 0) return;
    if (!isKey && event.target instanceof Element) event.target.releasePointerCapture(event.pointerId);
    this.down.add(pitch);
    this.inputs.screen.press([0x90, pitch, VELOCITY], event.timeStamp);
  }

  /** The damper, which a pointer cannot hold while it plays: down with one press, up with the next. */
  protected pedal(event: Event): void {
    this.pedalDown.update((down) => !down);
    this.inputs.screen.press([0xb0, DAMPER, this.pedalDown() ? 127 : 0], event.timeStamp);
  }

  protected lift(pitch: number, at: number): void {
    if (this.down.delete(pitch)) this.inputs.screen.press([0x80, pitch, 64], at);
  }

  /** Releases the keys and the pedal that are down, and stops the clicks. */
  ngOnDestroy(): void {
    const at = performance.now();
    for (const pitch of this.down) this.lift(pitch, at);
    if (this.pedalDown()) this.inputs.screen.press([0xb0, DAMPER, 0], at);
    this.calibrator.cancel();
  }
}

function isShare(key: Amount): boolean {
  return key === 'wrong' || key === 'missed';
}
