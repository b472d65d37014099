import { ChangeDetectionStrategy, Component, computed, effect, inject, signal } from '@angular/core';
import type { OutputWishes } from '@early-sparrow/core/batch';
import type { Option } from '../../common/option';
import { PickOne } from '../../common/pick-one';
import type { Compare } from '../../state/desk.feature';
import { Choice } from '../controls/choice';
import { EXPORT } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { Exporting, type Form, type ReadyFile } from './exporting';

/** What is written to a file: the song or something in it, before or after, in which form. */
@Component({
  selector: 'es-export-strip',
  imports: [Choice, PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section aria-label="Export">
      <div class="group">
        <es-pick-one
          class="form"
          label="Kind of file"
          [value]="exporting.form()"
          [options]="forms"
          (picked)="setForm($event)"
        />
        @if (exporting.form() === 'song') {
          <label>
            <input
              type="checkbox"
              [checked]="exporting.withHistory()"
              (change)="exporting.withHistory.set(!exporting.withHistory())"
            />
            with its history
          </label>
        } @else {
          <es-pick-one
            class="what"
            label="What is exported"
            [value]="exporting.what()"
            [options]="exporting.whats()"
            (picked)="exporting.choose($event)"
          />
          @if (exporting.form() !== 'notes') {
            <es-choice label="Side" [value]="exporting.side()" [options]="sides" (picked)="setSide($event)" />
            <es-choice
              label="Place in the file"
              [value]="exporting.place()"
              [options]="places"
              (picked)="setPlace($event)"
            />
          }
        }
        <button class="main small" (click)="exporting.save()">Save the file</button>
        @if (exporting.form() !== 'song' && canDrag) {
          <span
            class="drag"
            draggable="true"
            title="Drag it to the desktop, a folder or another program"
            (pointerenter)="prepare()"
            (dragstart)="start($event)"
          >
            Drag out <b>{{ ready()?.name ?? 'the file' }}</b>
          </span>
        }
      </div>
      <p class="what">{{ about() }}</p>
      <button class="word close" (click)="panels.close(own)">Close</button>
    </section>
  `,
  styleUrl: '../shape/strips.scss',
  styles: `
    .group {
      gap: 8px 14px;
      padding: 4px 0;
    }
    es-choice {
      margin-top: 0;
    }
    .form {
      width: 190px;
    }
    .what {
      max-width: 260px;
    }
    p.what {
      max-width: none;
    }
    .drag b {
      width: auto;
      font-weight: 400;
      color: var(--ink);
    }
    .drag {
      max-width: 280px;
      padding: 4px 12px;
      border: 1px dashed var(--line);
      border-radius: 8px;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
      color: var(--soft);
      cursor: grab;
    }
  `,
})
export class ExportStrip {
  protected readonly exporting = inject(Exporting);
  protected readonly panels = inject(Panels);
  protected readonly own = EXPORT;
  protected readonly forms: readonly Option[] = [
    { value: 'midi', text: 'MIDI file' },
    { value: 'tracks', text: 'a MIDI file for each track' },
    { value: 'notes', text: 'list of notes (CSV)' },
    { value: 'song', text: 'song file' },
  ];
  protected readonly sides: readonly Option[] = [
    { value: 'corrected', text: 'corrected' },
    { value: 'played', text: 'as played' },
  ];
  protected readonly places: readonly Option[] = [
    { value: 'own', text: 'at its own bars' },
    { value: 'first-bar', text: 'from bar 1' },
  ];
  /** Only some browsers drag files out; the others would drag the words. */
  protected readonly canDrag = /Chrome\//.test(navigator.userAgent);
  protected readonly ready = signal<ReadyFile | null>(null);
  private asked = 0;

  protected readonly about = computed((): string => {
    const form = this.exporting.form();
    if (form === 'song') {
      return 'Everything: takes, treatments, own settings, marks and sound files. It opens again here or on another machine.';
    }
    if (form === 'notes')
      return 'Every note with its place, line and offset in ms, as played and corrected, for a spreadsheet.';
    if (form === 'tracks')
      return 'One zip file with a MIDI file for each track that has notes, each with the tempo and the meter.';
    return this.exporting.what() === 'loop'
      ? 'The notes that are meant for the loop, early ones too. What rings on is cut where the loop ends.'
      : 'A standard MIDI file with tempo and meter.';
  });

  constructor() {
    // What was made ready is let go as soon as it would be another file, and with the strip.
    effect((onCleanup) => {
      const made = this.ready();
      onCleanup(() => {
        if (made) setTimeout(() => URL.revokeObjectURL(made.url), KEPT_MS);
      });
    });
    effect(() => {
      this.exporting.state();
      this.asked++;
      this.ready.set(null);
    });
  }

  protected setForm(form: string): void {
    this.exporting.form.set(form as Form);
  }

  protected setSide(side: string): void {
    this.exporting.side.set(side as Compare);
  }

  protected setPlace(place: string): void {
    this.exporting.place.set(place as OutputWishes['place']);
  }

  /** Makes the file while the pointer comes near: a drag that begins must have it. */
  protected async prepare(): Promise<void> {
    if (this.ready()) return;
    const asked = ++this.asked;
    const made = await this.exporting.ready();
    if (asked === this.asked) this.ready.set(made);
    else if (made) URL.revokeObjectURL(made.url);
  }

  protected start(event: DragEvent): void {
    const made = this.ready();
    if (!made || !event.dataTransfer) {
      event.preventDefault();
      return;
    }
    event.dataTransfer.effectAllowed = 'copy';
    event.dataTransfer.setData('DownloadURL', `${made.type}:${made.name}:${made.url}`);
  }
}

/** A file that was dragged out is fetched after the drop: it stays so long, in ms. */
const KEPT_MS = 60_000;
