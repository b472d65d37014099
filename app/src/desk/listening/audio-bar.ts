import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { fileOpen } from 'browser-fs-access';
import { ownTempoEdit } from '@early-sparrow/core/audio';
import { repeatPart } from '@early-sparrow/core/edit';
import { HEARD, songEnd, speedAt, tempoOf, type PartAudio } from '@early-sparrow/core/song';
import type { Option } from '../../common/option';
import { Said } from '../../common/said';
import { AudioFiles } from '../../sound/audio-files';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';
import { Choice } from '../controls/choice';
import { AUDIO_FILES } from './audio-import';

const WORDS: Readonly<Record<PartAudio['heard'], string>> = {
  file: 'the sound',
  notes: 'its hits',
  both: 'both',
};
/** A speed this close to its own is its own. */
const OWN = 0.0005;

/** The sound file of the current part: what of it is heard, how fast it runs, and the way to it where it is missing. */
@Component({
  selector: 'es-audio-bar',
  imports: [Choice],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (audio(); as a) {
      <div class="bar" role="group" aria-label="Sound file">
        <b [title]="a.name">{{ a.name }}</b>
        @if (files.missing().has(a.file)) {
          <span role="alert">Its sound is not in this browser; its hits are.</span>
          <button class="word" (click)="find(a.file)">Find the file …</button>
        } @else if (!files.peaks().has(a.file)) {
          <span role="status">Loading its sound …</span>
        } @else {
          <span>Hear</span>
          <es-choice label="What you hear of it" [value]="a.heard" [options]="options" (picked)="hear($event)" />
        }
        <span class="soft">{{ speed() }}</span>
        @if (!own()) {
          <button class="word" title="Gives the song the tempo of the file" (click)="setTempo()">
            Set the song to this tempo
          </button>
        }
        @if (room()) {
          <button class="word" title="Copies it again and again, to the end of the song" (click)="repeat()">
            Repeat
          </button>
        }
      </div>
    }
  `,
  styles: `
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 0 12px;
      min-height: 40px;
      padding: 0 12px;
      border-bottom: 1px solid var(--line);
      background: var(--raised);
      font-size: 14px;
    }
    b {
      max-width: 160px;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    es-choice {
      margin: 0;
    }
    .soft {
      color: var(--soft);
    }
  `,
})
export class AudioBar {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly said = inject(Said);
  protected readonly files = inject(AudioFiles);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly part = this.store.selectSignal(deskFeature.selectPart);
  private readonly track = this.store.selectSignal(deskFeature.selectTrack);

  protected readonly audio = computed(() => this.part()?.audio);
  protected readonly options: readonly Option[] = HEARD.map((value) => ({ value, text: WORDS[value] }));

  /** Speeds at its beginning and its end. */
  private readonly speeds = computed(() => {
    const part = this.part();
    const song = this.song();
    if (!part?.audio || !song) return [1, 1];
    const { audio, start, end } = part;
    return [start, end - 1].map((tick) => speedAt(audio, tick, tempoOf(song)));
  });
  protected readonly own = computed(() => this.speeds().every((s) => Math.abs(s - 1) < OWN));
  protected readonly speed = computed(() => {
    if (this.own()) return 'at its own speed';
    const [first, last] = this.speeds().map((s) => `${(s * 100).toFixed(1)} %`);
    return first === last ? `at ${first} of its speed` : `at ${first} to ${last} of its speed`;
  });

  protected hear(value: string): void {
    const part = this.part();
    const heard = HEARD.find((h) => h === value);
    if (!part || !heard) return;
    const name = `Hear ${WORDS[heard]}`;
    // Copies of a loop are heard alike.
    const alike = this.track()?.parts.filter((p) => p.audio?.file === part.audio?.file) ?? [];
    const edits = alike.map(({ id }) => ({ kind: 'part-audio', name, part: id, heard }) as const);
    this.changes.make({ kind: 'several', name, edits }, 'listen');
  }

  protected setTempo(): void {
    const part = this.part();
    const song = this.song();
    const edit = part && song && ownTempoEdit(song, part);
    if (edit) this.changes.make(edit, 'tempo');
  }

  private readonly repeated = computed(() => {
    const part = this.part();
    const song = this.song();
    return part && song ? repeatPart(song, part.id, songEnd(song)) : null;
  });
  protected readonly room = computed(() => this.repeated() !== null);

  protected repeat(): void {
    const edit = this.repeated();
    if (edit) this.changes.make(edit, 'repeat');
  }

  protected async find(id: string): Promise<void> {
    const file = await fileOpen(AUDIO_FILES).catch(() => null);
    const wrong = file && (await this.files.bringBack(id, file));
    if (wrong) this.said.say(wrong);
  }
}
