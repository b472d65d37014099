import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  type ElementRef,
  input,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { isProblem, LEAST_BPM, MOST_BEATS, MOST_BPM, newSongWith, type FirstTrack } from '@early-sparrow/core/edit';
import type { Song } from '@early-sparrow/core/song';
import type { Begins } from '../common/beginning';
import { NOTE_VALUES } from '../common/note-values';
import { PickOne } from '../common/pick-one';
import { VOICES, voiceOf } from '../common/voices';

/** A song that is to be made, and what it begins with; null: it is drawn into. */
export interface Wanted {
  readonly song: Song;
  readonly begins: Begins | null;
}

/** A new song: its tempo, its meter and its first track. */
@Component({
  selector: 'es-new-song',
  imports: [PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form
      novalidate
      aria-label="New song"
      (submit)="$event.preventDefault(); create(null)"
      (keydown.escape)="closed.emit()"
    >
      <label>Name <input #name class="entry" maxlength="200" [value]="suggested()" /></label>
      <label>
        Tempo <input #bpm class="entry number" type="number" step="any" [min]="least" [max]="most" value="120" /> BPM
      </label>
      <span class="pair">
        Meter
        <input #beats class="entry number" type="number" aria-label="Beats a bar" min="1" [max]="mostBeats" value="4" />
        /
        <es-pick-one label="Note value of a beat" [value]="beat()" [options]="values" (picked)="beat.set($event)" />
      </span>
      <span class="pair">
        First track
        <es-pick-one
          class="wide"
          label="Instrument of the first track"
          [value]="voice()"
          [options]="voices"
          (picked)="voice.set($event)"
        />
      </span>
      <span class="actions">
        <button class="main" type="submit">Create</button>
        <button class="word" type="button" (click)="create('record')">Create and record</button>
        <button class="word" type="button" (click)="create('import')">Create and bring in a file</button>
        <button class="word" type="button" (click)="closed.emit()">Cancel</button>
      </span>
      @if (problem(); as text) {
        <p role="alert">{{ text }}</p>
      }
    </form>
  `,
  styleUrl: './new-song.scss',
})
export class NewSong {
  /** A name that no song has yet. */
  readonly suggested = input.required<string>();
  readonly wanted = output<Wanted>();
  readonly closed = output();
  private readonly name = viewChild.required<ElementRef<HTMLInputElement>>('name');
  private readonly bpm = viewChild.required<ElementRef<HTMLInputElement>>('bpm');
  private readonly beats = viewChild.required<ElementRef<HTMLInputElement>>('beats');
  protected readonly beat = signal('4');
  protected readonly voice = signal('0');
  protected readonly problem = signal('');
  protected readonly least = LEAST_BPM;
  protected readonly most = MOST_BPM;
  protected readonly mostBeats = MOST_BEATS;
  protected readonly values = NOTE_VALUES;
  protected readonly voices = VOICES.filter((v) => v.value !== 'file');

  constructor() {
    afterNextRender(() => this.name().nativeElement.select());
  }

  protected create(begins: Begins | null): void {
    const name = this.name().nativeElement.value.trim() || this.suggested();
    const text = this.voices.find((v) => v.value === this.voice())?.text ?? 'Track 1';
    const track: FirstTrack = { name: text, ...voiceOf(this.voice()) };
    const song = newSongWith(name, {
      bpm: this.bpm().nativeElement.valueAsNumber,
      numerator: this.beats().nativeElement.valueAsNumber,
      denominator: Number(this.beat()),
      track,
    });
    if (isProblem(song)) this.problem.set(song.problem);
    else this.wanted.emit({ song, begins });
  }
}
