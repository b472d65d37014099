import { ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { Keeping } from '@early-sparrow/core/edit';
import { ALL_KEYS } from '@early-sparrow/core/song';
import { NOTE_VALUES } from '../../common/note-values';
import type { Option } from '../../common/option';
import { PickOne } from '../../common/pick-one';
import { PLACE_PROBLEM, placeText, readPlace } from '../../common/places';
import { Said } from '../../common/said';
import { Player } from '../../sound/player';
import { Choice } from '../controls/choice';
import { TIME } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { KEYS, MarkFields } from './mark-fields';
import { MarkPlaces } from './mark-places';
import { bpmText, type Mark } from './marks';
import { TempoFitting } from './tempo-fitting';
import { TimeActs } from './time-acts';

/** Height of a row of the list, and of the list at most, in px. */
const ROW = 34;
const TALLEST = 3.5 * ROW;

/** Tempo, meter, markers and keys as a list, and whole bars: all that the ruler shows, by the keyboard too. */
@Component({
  selector: 'es-time-strip',
  imports: [Choice, MarkFields, PickOne, ScrollingModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './time-strip.html',
  styleUrls: ['../shape/strips.scss', './time-strip.scss'],
})
export class TimeStrip {
  protected readonly acts = inject(TimeActs);
  protected readonly places = inject(MarkPlaces);
  protected readonly panels = inject(Panels);
  private readonly said = inject(Said);
  private readonly player = inject(Player);
  protected readonly fitting = inject(TempoFitting);
  protected readonly own = TIME;
  protected readonly values = NOTE_VALUES;
  protected readonly keys = KEYS;
  protected readonly keeps: readonly Option[] = [
    { value: 'bars', text: 'the bars' },
    { value: 'seconds', text: 'the seconds' },
  ];
  protected readonly value = signal('4');
  protected readonly key = signal(`${ALL_KEYS.findIndex((k) => k.sharps === 0 && !k.minor)}`);
  /** A place that was typed; null: the beat that the playhead is at. */
  private readonly typed = signal<number | null>(null);
  protected readonly tick = computed(() => this.typed() ?? this.acts.nearest(this.player.position(), 'beat'));
  protected readonly place = computed(() => {
    const song = this.acts.song();
    return song ? placeText(song, this.tick()) : '';
  });
  protected readonly bpmNow = computed(() => bpmText(this.acts.bpmAt(this.tick())));
  protected readonly height = computed(() => Math.min(TALLEST, this.places.marks().length * ROW));

  /** A place that was typed holds until another one is; an empty field goes with the playhead again. */
  protected setPlace(field: HTMLInputElement): void {
    const song = this.acts.song();
    const tick = song && field.value.trim() ? readPlace(song, field.value) : null;
    if (tick === null && field.value.trim()) this.said.say(PLACE_PROBLEM);
    else this.typed.set(tick);
    field.value = this.place();
  }

  protected setKeep(value: string): void {
    this.acts.keep.set(value as Keeping);
  }

  protected setKey(): void {
    const { sharps, minor } = ALL_KEYS[Number(this.key())];
    this.acts.setKey(this.tick(), sharps, minor);
  }

  protected addMarker(field: HTMLInputElement): void {
    if (this.acts.addMarker(this.tick(), field.value)) field.value = '';
  }

  protected same(_: number, mark: Mark): string {
    return `${mark.kind} ${mark.kind === 'marker' ? mark.index : mark.at}`;
  }
}
