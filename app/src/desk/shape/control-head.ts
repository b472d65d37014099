import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { asOne, eventsOf, isOf, thin } from '@early-sparrow/core/shape';
import type { EventMode } from '@early-sparrow/core/song';
import { Said } from '../../common/said';
import { Shaping } from '../hand/shaping';
import { Treating } from '../hand/treating';
import { Controls, type ControlKind } from './controls';
import { Points } from './points';

const WORDS: Readonly<Record<ControlKind, string>> = {
  pedal: 'Pedal',
  bend: 'Pitch bend',
  pressure: 'Pressure',
  controller: 'Controller',
};
/** Points that lie this close to the line between their neighbours can go; for the bend more, as its values are finer. */
const THIN = 1.5;
const THIN_BEND = 100;

/** Over a lane of events: what it shows, and what the treatment does with it. */
@Component({
  selector: 'es-control-head',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <span>{{ word() }}</span>
    @if (kind() === 'controller') {
      <select aria-label="Controller" #number [value]="controls.number()" (change)="controls.wanted.set(+number.value)">
        @for (n of controls.numbers(); track n) {
          <option [value]="n" [selected]="n === controls.number()">{{ controls.nameOf(n) }}</option>
        }
      </select>
    }
    @if (controls.channels().length > 1) {
      <select aria-label="Channel" #channel (change)="controls.channelWanted.set(+channel.value)">
        @for (c of controls.channels(); track c) {
          <option [value]="c" [selected]="c === controls.channel()">channel {{ c + 1 }}</option>
        }
      </select>
    }
    <select [attr.aria-label]="'When notes move, the ' + word() + ' events'" #mode (change)="setMode(mode.value)">
      @for (m of modes; track m.value) {
        <option [value]="m.value" [selected]="m.value === modeNow()">{{ m.text }}</option>
      }
    </select>
    @if (kind() !== 'pedal') {
      <button class="word" (click)="thin()" title="Remove points that lie on the line between their neighbours">
        Thin
      </button>
    }
    <button class="word" (click)="all()" title="Select the points of this lane. With Alt, drag a frame around some">
      Select
    </button>
    @if (count() > 0) {
      <span class="count">{{ count() }} selected</span>
    }
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 10px;
      height: 100%;
      min-width: 0;
    }
    select,
    button {
      pointer-events: auto;
      font: inherit;
      color: inherit;
    }
    select {
      min-width: 0;
      max-width: 150px;
      padding: 0 2px;
      border: 1px solid var(--line);
      border-radius: 5px;
      background: var(--paper);
    }
    button {
      padding: 0 6px;
    }
    .count {
      white-space: nowrap;
    }
  `,
})
export class ControlHead {
  protected readonly controls = inject(Controls);
  private readonly shaping = inject(Shaping);
  private readonly treating = inject(Treating);
  private readonly said = inject(Said);
  private readonly points = inject(Points);
  readonly kind = input.required<ControlKind>();
  protected readonly word = computed(() => WORDS[this.kind()]);
  protected readonly modes = [
    { value: 'stay', text: 'stay in place' },
    { value: 'follow', text: 'follow the notes' },
    { value: 'quantize', text: 'quantize to the lines' },
  ];
  protected readonly modeNow = computed((): EventMode | null => {
    const quantize = this.treating.part()?.treatment.quantize;
    return quantize ? quantize[this.kind()] : null;
  });

  /** How many points of this lane are selected. */
  protected readonly count = computed(() => {
    const control = this.controls.control(this.kind());
    return [...this.points.chosen()].filter((e) => isOf(e, control)).length;
  });

  protected all(): void {
    const control = this.controls.control(this.kind());
    const parts = this.treating.track()?.parts ?? [];
    const events = parts.flatMap((part) => eventsOf(part, control).map((i) => part.events[i]));
    this.points.select(control, events);
    if (events.length === 0) this.said.say('This lane has no points.');
  }

  protected setMode(mode: string): void {
    this.treating.commitPart(`${this.word()} events`, { quantize: { [this.kind()]: mode as EventMode } });
  }

  protected thin(): void {
    const control = this.controls.control(this.kind());
    const steps = this.kind() === 'bend' ? THIN_BEND : THIN;
    const some = this.count() > 0;
    const here = this.treating.part();
    // Points that are selected may be of several parts.
    const parts = some ? (this.treating.track()?.parts ?? []) : here ? [here] : [];
    const thinned = parts.map((part) => thin(part, control, steps, some ? new Set(this.points.indicesIn(part)) : null));
    const shaped = asOne(`Thin ${this.word().toLowerCase()}`, thinned);
    if (shaped) this.shaping.make(shaped, 'thin');
    else this.said.say('No point of this lane can go without being heard.');
  }
}
