import { ChangeDetectionStrategy, Component, DestroyRef, inject, signal } from '@angular/core';
import { FileDrop } from '../common/file-drop';
import { readDropped } from './dropped';
import { Importer } from './importer';
import { Launched } from './launched';

/** While files are over the page, events come several times a second: after this long without one they have gone, in ms. */
const GONE_MS = 1500;

/** Takes files that are dropped anywhere in the window, and shows that it will; and those that the system opens. */
@Component({
  selector: 'es-drop-zone',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: {
    '(document:dragenter)': 'enter($event)',
    '(document:dragover)': 'over($event)',
    '(document:dragleave)': 'leave($event)',
    '(document:drop)': 'drop($event)',
  },
  template: `
    @if (hovering()) {
      <div class="veil">
        <p>Drop MIDI files, song files or folders to open them, or a sound file onto the open song</p>
      </div>
    }
    @if (importer.busy(); as name) {
      <p class="busy" role="status">Reading “{{ name }}” …</p>
    }
  `,
  styles: `
    .veil {
      position: fixed;
      inset: 0;
      z-index: 1000;
      display: grid;
      place-items: center;
      pointer-events: none;
      background: color-mix(in srgb, var(--paper) 85%, transparent);
      border: 3px dashed var(--action);
      font-size: 24px;
    }
    .busy {
      position: fixed;
      inset: auto auto 16px 16px;
      z-index: 1000;
      margin: 0;
      padding: 8px 16px;
      border-radius: 8px;
      background: var(--ink);
      color: var(--paper);
    }
  `,
})
export class DropZone {
  protected readonly importer = inject(Importer);
  private readonly files = inject(FileDrop);
  protected readonly hovering = signal(false);
  private gone?: ReturnType<typeof setTimeout>;

  constructor() {
    inject(Launched).listen();
    inject(DestroyRef).onDestroy(() => clearTimeout(this.gone));
  }

  protected enter(event: DragEvent): void {
    if (hasFiles(event)) this.show();
  }

  protected over(event: DragEvent): void {
    if (!hasFiles(event)) return;
    event.preventDefault();
    this.show();
  }

  /** When the browser cancels a drag, the page gets no event. So the veil also goes when the events stop. */
  private show(): void {
    this.hovering.set(true);
    clearTimeout(this.gone);
    this.gone = setTimeout(() => this.hide(), GONE_MS);
  }

  private hide(): void {
    clearTimeout(this.gone);
    this.hovering.set(false);
  }

  protected leave(event: DragEvent): void {
    if (!event.relatedTarget) this.hide();
  }

  protected drop(event: DragEvent): void {
    if (!hasFiles(event)) return;
    event.preventDefault();
    this.hide();
    if (event.dataTransfer) void this.take(event.dataTransfer);
  }

  private async take(transfer: DataTransfer): Promise<void> {
    const dropped = await readDropped(transfer);
    if (!this.files.give(dropped.files)) await this.importer.take(dropped);
  }
}

function hasFiles(event: DragEvent): boolean {
  return event.dataTransfer?.types.includes('Files') ?? false;
}
