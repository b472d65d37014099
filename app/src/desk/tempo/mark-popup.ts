import {
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  inject,
  viewChild,
  effect,
  untracked,
} from '@angular/core';
import { placeText } from '../../common/places';
import { Viewport } from '../kit/viewport';
import { MarkEditing } from './mark-editing';
import { MarkFields } from './mark-fields';
import { MarkPlaces } from './mark-places';
import { TimeActs } from './time-acts';

/** So much room the fields need, in px. */
const WIDTH = 400;

/** A mark's fields under it in the ruler. */
@Component({
  selector: 'es-mark-popup',
  imports: [MarkFields],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="popup" role="group" aria-label="Mark" #box [style.left.px]="x()" (keydown.escape)="editing.close()">
      @if (mark(); as mark) {
        <es-mark-fields [mark]="mark" (moved)="editing.close()" />
      } @else {
        <b>New marker</b>
        <span class="soft">at {{ place() }}</span>
        <input #name class="entry name" aria-label="Name of the new marker" (keydown.enter)="add(name.value)" />
        <button class="word" (click)="add(name.value)">Add</button>
      }
      <button class="word" aria-label="Close the mark" (click)="editing.close()">×</button>
    </div>
  `,
  styles: `
    :host {
      position: relative;
      display: block;
      height: 0;
      z-index: 8;
    }
    .popup {
      position: absolute;
      top: 34px;
      display: flex;
      align-items: center;
      gap: 8px;
      padding: 4px 10px;
      border: 1px solid var(--action);
      border-radius: 8px;
      background: var(--paper);
      font-size: 14px;
      box-shadow: 0 4px 16px color-mix(in srgb, var(--ink) 16%, transparent);
    }
    .soft {
      color: var(--soft);
    }
    .name {
      width: 160px;
    }
  `,
})
export class MarkPopup {
  protected readonly editing = inject(MarkEditing);
  private readonly places = inject(MarkPlaces);
  private readonly acts = inject(TimeActs);
  private readonly view = inject(Viewport);
  private readonly box = viewChild.required<ElementRef<HTMLElement>>('box');

  /** The mark as it is now: what was changed in it shows. */
  protected readonly mark = computed(() => {
    const edited = this.editing.edited();
    if (!edited || !('mark' in edited)) return null;
    const { mark } = edited;
    const same = this.places.marks().filter((m) => m.kind === mark.kind);
    return mark.kind === 'marker'
      ? (same.find((m) => m.kind === 'marker' && m.index === mark.index) ?? null)
      : (same.find((m) => m.at === mark.at) ?? null);
  });
  private readonly at = computed(() => {
    const edited = this.editing.edited();
    return this.mark()?.at ?? (edited && 'fresh' in edited ? edited.fresh : 0);
  });
  protected readonly x = computed(() => Math.max(4, Math.min(this.view.x(this.at()), this.view.width() - WIDTH)));
  protected readonly place = computed(() => {
    const song = this.acts.song();
    return song ? placeText(song, this.at()) : '';
  });

  constructor() {
    // The mark was removed, or moved from elsewhere.
    effect(() => {
      const edited = this.editing.edited();
      if (edited && 'mark' in edited && !this.mark()) untracked(() => this.editing.close());
    });
    // What is to be typed has the focus, once: what is changed in the mark later leaves it where it is.
    afterRenderEffect(() => {
      this.editing.edited();
      const [first, second] = this.box().nativeElement.querySelectorAll<HTMLInputElement>('input:not(:disabled)');
      const field = untracked(() => this.mark()) && (second as HTMLInputElement | undefined) ? second : first;
      (field as HTMLInputElement | undefined)?.focus();
      (field as HTMLInputElement | undefined)?.select();
    });
  }

  protected add(name: string): void {
    if (this.acts.addMarker(this.at(), name)) this.editing.close();
  }
}
