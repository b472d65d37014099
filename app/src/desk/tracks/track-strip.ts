import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { voiceKind } from '@early-sparrow/core/sound';
import type { Track, TrackSound } from '@early-sparrow/core/song';
import { numberProblem } from '../../common/format';
import type { Option } from '../../common/option';
import { PickOne } from '../../common/pick-one';
import { Said } from '../../common/said';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';
import { soundEdit, VOICES, voiceOf, voiceValue } from '../../common/voices';
import { ColourMenu } from '../controls/colour-menu';
import { TRACK } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { TrackActs } from './track-acts';

const OWN = 'own';
/** Furthest that a track can be transposed, in semitones, and delayed, in ms. */
const MOST_SEMITONES = 60;
const MOST_MS = 1000;

/** What the current track is called and how it sounds; its notes stay what they are. */
@Component({
  selector: 'es-track-strip',
  imports: [ColourMenu, PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section aria-label="Track">
      @if (track(); as track) {
        <div class="group">
          <b>Track</b>
          <input
            #name
            class="name"
            aria-label="Name of the track"
            maxlength="200"
            [value]="track.name"
            (change)="rename(track, name)"
            (keydown.enter)="name.blur()"
          />
          <es-colour-menu label="Colour of the track" [value]="track.colour" (picked)="setColour(track, $event)" />
          <es-pick-one
            class="wide"
            label="Instrument"
            [value]="voice()"
            [options]="voices"
            (picked)="setVoice(track, $event)"
          />
          <es-pick-one label="Channel" [value]="channel()" [options]="channels" (picked)="setChannel(track, $event)" />
          <label>
            transposed
            <input
              #semitones
              class="number"
              type="number"
              aria-label="Transposition in semitones"
              [min]="-60"
              [max]="60"
              [value]="track.transpose"
              (change)="transpose(track, semitones)"
            />
            semitones
          </label>
          <label>
            delayed
            <input
              #delay
              class="number"
              type="number"
              aria-label="Delay in ms"
              [min]="-1000"
              [max]="1000"
              [value]="track.delay.value"
              (change)="setDelay(track, delay)"
            />
            {{ track.delay.unit === 'ms' ? 'ms' : 'ticks' }}
          </label>
        </div>
        <div class="group">
          <b class="soft">{{ count() > 1 ? count() + ' tracks' : '' }}</b>
          <button class="word" (click)="acts.duplicate()">Duplicate</button>
          <button class="word" (click)="acts.move(-1)">Up</button>
          <button class="word" (click)="acts.move(1)">Down</button>
          <button class="word" (click)="acts.split('channel')">Split by channel</button>
          <button class="word" (click)="acts.split('key')">
            {{ drums() ? 'Split by drum' : 'Split by key' }}
          </button>
          <button class="word" (click)="acts.merge()" title="Shift-click other tracks in the list first">Merge</button>
          <button class="word" (click)="acts.remove()">Delete</button>
        </div>
      } @else {
        <p class="what">There is no track. Add one in the list.</p>
      }
      <button class="word close" (click)="panels.close(own)">Close</button>
    </section>
  `,
  styleUrl: '../shape/strips.scss',
  styles: `
    label {
      margin-left: 8px;
      color: var(--soft);
    }
  `,
})
export class TrackStrip {
  protected readonly panels = inject(Panels);
  protected readonly acts = inject(TrackActs);
  private readonly changes = inject(Changes);
  private readonly said = inject(Said);
  private readonly store = inject(Store);
  protected readonly own = TRACK;
  protected readonly track = this.store.selectSignal(deskFeature.selectTrack);
  private readonly also = this.store.selectSignal(deskFeature.selectAlso);
  protected readonly count = computed(() => 1 + this.also().length);
  protected readonly voices = VOICES;
  protected readonly voice = computed(() => voiceValue(this.track()));
  protected readonly drums = computed(() => {
    const track = this.track();
    return track !== null && voiceKind(track) === 'drums';
  });
  protected readonly channels: readonly Option[] = [
    { value: OWN, text: 'each note’s own channel' },
    ...Array.from({ length: 16 }, (_, c) => ({ value: `${c}`, text: `channel ${c + 1}` })),
  ];
  protected readonly channel = computed(() => `${this.track()?.channel ?? OWN}`);

  protected rename(track: Track, field: HTMLInputElement): void {
    const to = field.value.trim();
    if (to === track.name) return;
    if (to) this.changes.make({ kind: 'track-name', name: `Rename ${track.name}`, track: track.id, to }, 'track name');
    else this.said.say('A track needs a name.');
    field.value = this.track()?.name ?? '';
  }

  protected setColour(track: Track, colour: number | null): void {
    this.changes.make({ kind: 'track-colour', name: `Colour ${track.name}`, track: track.id, colour }, 'track');
  }

  protected setVoice(track: Track, value: string): void {
    this.sound(track, `Instrument of ${track.name}`, voiceOf(value));
  }

  protected setChannel(track: Track, value: string): void {
    this.sound(track, `Channel of ${track.name}`, { channel: value === OWN ? null : Number(value) });
  }

  protected transpose(track: Track, field: HTMLInputElement): void {
    const transpose = this.whole(field, track.transpose, MOST_SEMITONES, 'semitones');
    if (transpose !== track.transpose) this.sound(track, `Transpose ${track.name}`, { transpose });
  }

  protected setDelay(track: Track, field: HTMLInputElement): void {
    const { value: was, unit } = track.delay;
    const value = this.whole(field, was, MOST_MS, unit === 'ms' ? 'ms' : 'ticks');
    if (value !== was) this.sound(track, `Delay of ${track.name}`, { delay: { value, unit } });
  }

  /** The whole number that was typed. If it is not a number or out of range, the old one stays and a message says so. */
  private whole(field: HTMLInputElement, was: number, most: number, unit: string): number {
    const typed = field.valueAsNumber;
    const fits = Number.isFinite(typed) && Math.abs(typed) <= most;
    if (!fits) this.said.say(numberProblem(-most, `${most} ${unit}`));
    const value = fits ? Math.round(typed) : was;
    field.value = String(value);
    return value;
  }

  private sound(track: Track, name: string, change: Partial<TrackSound>): void {
    this.changes.make(soundEdit(track, name, change), 'track sound');
  }
}
