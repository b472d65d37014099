import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { SongRows } from './song-rows';

/** So many px an arrow key makes the overview taller. */
const STEP = 24;

/** The overview's lower edge: dragged down it is the song view. */
@Component({
  selector: 'es-song-edge',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: {
    role: 'separator',
    tabindex: '0',
    'aria-orientation': 'horizontal',
    'aria-label': 'Height of the song view',
    '[attr.aria-valuenow]': 'rows.shown()',
    '[attr.aria-valuemax]': 'rows.most()',
    'aria-valuemin': '48',
    title: 'Drag to make the song view taller; double-click for all of it (Shift O)',
    '(pointerdown)': 'down($event)',
    '(pointermove)': 'move($event)',
    '(pointerup)': 'up($event)',
    '(pointercancel)': 'up($event)',
    '(dblclick)': 'rows.toggle()',
    '(keydown)': 'key($event)',
  },
  template: '',
  styles: `
    :host {
      display: block;
      flex: none;
      position: relative;
      z-index: 5;
      height: 9px;
      margin: -5px 0 -4px;
      cursor: ns-resize;
      touch-action: none;
    }
    :host:hover,
    :host:focus-visible {
      background: linear-gradient(transparent 3px, var(--action) 3px 5px, transparent 5px);
      outline: none;
    }
  `,
})
export class SongEdge {
  protected readonly rows = inject(SongRows);
  private from: { readonly y: number; readonly height: number } | null = null;

  protected down(event: PointerEvent): void {
    if (event.button !== 0) return;
    (event.target as HTMLElement).setPointerCapture(event.pointerId);
    this.from = { y: event.clientY, height: this.rows.shown() };
  }

  protected move(event: PointerEvent): void {
    if (this.from) this.rows.setHeight(this.from.height + event.clientY - this.from.y);
  }

  protected up(event: PointerEvent): void {
    this.move(event);
    this.from = null;
  }

  protected key(event: KeyboardEvent): void {
    const by = { ArrowDown: STEP, ArrowUp: -STEP }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    this.rows.setHeight(this.rows.shown() + by);
  }
}
