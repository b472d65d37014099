import {
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  inject,
  signal,
  viewChild,
} from '@angular/core';
import { readable } from '../kit/keys';
import { Panels } from '../kit/panels';
import type { At, Gesture } from '../kit/pointer';
import { VERBS, type Verb } from '../kit/verb';
import { Viewport } from '../kit/viewport';

/** Name of the strip among what can be open. */
const VERB_STRIP = 'verbs';
const WIDTH = 530;

/**
 * What can be done to the note at a place, as buttons beside it: for a finger, or for who looks for it. With *go on* the
 * verb that is pressed stays, and each drag in the picture sweeps with it.
 */
@Component({
  selector: 'es-verb-strip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (armed(); as verb) {
      <div class="strip armed" role="status">
        <b>{{ verb.short }}</b> <span>Drag over notes.</span>
        <button class="word" (click)="close()">Done</button>
      </div>
    } @else if (place(); as at) {
      <div
        #strip
        class="strip"
        role="toolbar"
        tabindex="-1"
        aria-label="At this place"
        [style.left.px]="left()"
        [style.top.px]="top()"
        (keydown)="arrow($event)"
      >
        @for (verb of verbs; track verb.id) {
          <button class="word" [title]="verb.name + ' (' + keyOf(verb) + ')'" (click)="act(verb, at)">
            {{ verb.short }}
          </button>
        }
        <label><input type="checkbox" [checked]="goesOn()" (change)="goesOn.set(!goesOn())" /> go on</label>
      </div>
    }
  `,
  styles: `
    .strip {
      position: absolute;
      z-index: 7;
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 0 2px;
      width: max-content;
      max-width: min(530px, 100%);
      padding: 2px 6px;
      border: 1px solid var(--line);
      border-radius: 8px;
      background: var(--paper);
      box-shadow: 0 3px 14px color-mix(in srgb, var(--ink) 16%, transparent);
      font-size: 13.5px;
    }
    .armed {
      left: 50%;
      top: 50px;
      gap: 8px;
      transform: translateX(-50%);
      white-space: nowrap;
    }
    button {
      padding: 4px 7px;
    }
    @media (pointer: coarse) {
      button {
        min-height: 36px;
        padding: 6px 10px;
      }
    }
    label {
      display: flex;
      align-items: center;
      gap: 4px;
      padding: 0 4px;
      color: var(--soft);
      white-space: nowrap;
    }
  `,
})
export class VerbStrip {
  private readonly panels = inject(Panels);
  private readonly view = inject(Viewport);
  private readonly strip = viewChild<ElementRef<HTMLElement>>('strip');
  protected readonly verbs = (inject(VERBS, { optional: true }) ?? []).flat().filter((v) => v.short !== undefined);
  protected readonly place = signal<At | null>(null);
  protected readonly armed = signal<Verb | null>(null);
  protected readonly goesOn = signal(false);
  protected readonly left = computed(() => {
    const x = (this.place()?.offsetX ?? 0) + 10;
    return Math.max(4, Math.min(x, this.view.width() - Math.min(WIDTH, this.view.width()) - 4));
  });
  protected readonly top = computed(() => {
    const y = this.place()?.offsetY ?? 0;
    return y > 110 ? y - 52 : y + 22;
  });

  open({ offsetX, offsetY, ctrlKey, metaKey, shiftKey, altKey }: At): void {
    this.armed.set(null);
    this.goesOn.set(false);
    this.place.set({ offsetX, offsetY, ctrlKey, metaKey, shiftKey, altKey, button: 0 });
    this.panels.open(VERB_STRIP, () => this.gone());
    setTimeout(() => this.strip()?.nativeElement.querySelector('button')?.focus());
  }

  close(): void {
    this.panels.close(VERB_STRIP);
  }

  /** What a press in the picture begins while a verb goes on; a press beside the strip closes it, and does what it does. */
  begin(at: At): Gesture | null {
    const verb = this.armed();
    if (!verb) {
      if (this.place()) this.close();
      return null;
    }
    return verb.begin(at) ?? NOTHING;
  }

  protected keyOf(verb: Verb): string {
    return readable(verb.keys[0]);
  }

  protected act(verb: Verb, at: At): void {
    if (this.goesOn()) {
      this.armed.set(verb);
      return;
    }
    this.close();
    const gesture = verb.begin(at);
    // A note that is played rings for a moment.
    if (gesture?.kind === 'sound') setTimeout(() => gesture.drop(at), 300);
    else gesture?.drop(at);
  }

  /** Arrow keys go from button to button, as in every toolbar. */
  protected arrow(event: KeyboardEvent): void {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    const all = [...(this.strip()?.nativeElement.querySelectorAll<HTMLElement>('button, input') ?? [])];
    all[(all.indexOf(document.activeElement as HTMLElement) + by + all.length) % all.length]?.focus();
  }

  private gone(): void {
    this.place.set(null);
    this.armed.set(null);
    document.querySelector<HTMLElement>('es-timing-view .canvas')?.focus({ preventScroll: true });
  }
}

const NOTHING: Gesture = { kind: 'none', move: () => undefined, drop: () => undefined, cancel: () => undefined };
