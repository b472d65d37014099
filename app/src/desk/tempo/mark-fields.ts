import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { ALL_KEYS, keyName } from '@early-sparrow/core/song';
import { NOTE_VALUES } from '../../common/note-values';
import type { Option } from '../../common/option';
import { onceRendered } from '../../common/once-rendered';
import { PickOne } from '../../common/pick-one';
import { PLACE_PROBLEM, placeText, readPlace } from '../../common/places';
import { Said } from '../../common/said';
import { bpmText, MARK_KINDS, type Mark } from './marks';
import { TimeActs } from './time-acts';

/** All keys, majors first; the value is their place in the list. */
export const KEYS: readonly Option[] = ALL_KEYS.map((key, i) => ({ value: `${i}`, text: keyName(key) }));

/** One mark as fields, to be changed in place. What is typed and does not fit goes back to what it was. */
@Component({
  selector: 'es-mark-fields',
  imports: [PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <b class="kind">{{ kinds[mark().kind] }}</b>
    <input
      #place
      class="entry place"
      [attr.aria-label]="'Place of ' + says()"
      [value]="placed()"
      [disabled]="acts.stays(mark())"
      (change)="move(place)"
    />
    @switch (mark().kind) {
      @case ('tempo') {
        @if (run(); as run) {
          <span class="soft">{{ run.count }} changes, from {{ whole(tempo()) }} to {{ whole(run.bpm) }} BPM</span>
        } @else {
          <input
            #field
            class="entry number"
            type="number"
            step="any"
            min="4"
            max="1000"
            [attr.aria-label]="'Tempo at ' + placed()"
            [value]="bpm(tempo())"
            (change)="setTempo(field)"
          />
          BPM
        }
      }
      @case ('meter') {
        <input
          #beats
          class="entry number"
          type="number"
          min="1"
          max="64"
          [attr.aria-label]="'Beats a bar at ' + placed()"
          [value]="meter().numerator"
          (change)="setMeter(beats, meter().denominator)"
        />
        /
        <es-pick-one
          [label]="'Note value of a beat at ' + placed()"
          [value]="'' + meter().denominator"
          [options]="values"
          (picked)="setMeter(beats, +$event)"
        />
      }
      @case ('key') {
        <es-pick-one [label]="'Key at ' + placed()" [value]="key()" [options]="keys" (picked)="setKey($event)" />
      }
      @case ('marker') {
        <input
          #name
          class="entry name"
          [attr.aria-label]="'Name of the marker at ' + placed()"
          [value]="markerName()"
          (change)="rename(name)"
          (keydown.enter)="name.blur()"
        />
      }
    }
    @if (!fixed()) {
      <button class="word" [attr.aria-label]="'Remove ' + says()" (click)="acts.remove(mark())">Remove</button>
    }
  `,
  styleUrl: './mark-fields.scss',
})
export class MarkFields {
  readonly mark = input.required<Mark>();
  /** The mark stands elsewhere now. */
  readonly moved = output();
  protected readonly acts = inject(TimeActs);
  private readonly said = inject(Said);
  private readonly onceRendered = onceRendered();
  protected readonly kinds = MARK_KINDS;
  protected readonly values = NOTE_VALUES;
  protected readonly keys = KEYS;
  protected readonly bpm = bpmText;
  protected readonly whole = Math.round;

  protected readonly placed = computed(() => {
    const song = this.acts.song();
    return song ? placeText(song, this.mark().at) : '';
  });
  protected readonly says = computed(() => `${MARK_KINDS[this.mark().kind].toLowerCase()} at ${this.placed()}`);
  /** A song always has a tempo and a meter. */
  protected readonly fixed = computed(() => {
    const mark = this.mark();
    return mark.at === 0 && ((mark.kind === 'tempo' && !mark.run) || mark.kind === 'meter');
  });
  protected readonly tempo = computed(() => this.of('tempo')?.bpm ?? 0);
  protected readonly run = computed(() => this.of('tempo')?.run ?? null);
  protected readonly meter = computed(() => this.of('meter') ?? { numerator: 4, denominator: 4 });
  protected readonly markerName = computed(() => this.of('marker')?.name ?? '');
  protected readonly key = computed(() => {
    const key = this.of('key');
    return `${ALL_KEYS.findIndex((k) => k.sharps === key?.sharps && k.minor === key.minor)}`;
  });

  protected move(field: HTMLInputElement): void {
    const song = this.acts.song();
    const to = song && readPlace(song, field.value);
    if (to === null) this.said.say(PLACE_PROBLEM);
    else if (to !== this.mark().at && this.acts.move(this.mark(), to)) this.moved.emit();
    this.onceRendered(() => (field.value = this.placed()));
  }

  protected setTempo(field: HTMLInputElement): void {
    this.acts.setTempo(this.mark().at, field.valueAsNumber);
    this.onceRendered(() => (field.value = bpmText(this.tempo())));
  }

  protected setMeter(field: HTMLInputElement, denominator: number): void {
    this.acts.setMeter(this.mark().at, field.valueAsNumber, denominator);
    this.onceRendered(() => (field.value = String(this.meter().numerator)));
  }

  protected setKey(value: string): void {
    const { sharps, minor } = ALL_KEYS[Number(value)];
    this.acts.setKey(this.mark().at, sharps, minor);
  }

  protected rename(field: HTMLInputElement): void {
    const mark = this.mark();
    if (mark.kind === 'marker') this.acts.rename(mark.index, field.value);
    this.onceRendered(() => (field.value = this.markerName()));
  }

  private of<K extends Mark['kind']>(kind: K): Extract<Mark, { kind: K }> | null {
    const mark = this.mark();
    return mark.kind === kind ? (mark as Extract<Mark, { kind: K }>) : null;
  }
}
