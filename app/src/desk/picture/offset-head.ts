import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { earlyOrLate } from '../../common/format';
import { Leans } from '../fits/leans';

/** Over the offset lane: its name, and a steady lean of the part with the way out on it. */
@Component({
  selector: 'es-offset-head',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <span>Offset from the lines, in ms</span>
    @if (lean(); as l) {
      <button class="lean" [class]="l.side" (click)="remove()">
        <span aria-hidden="true">{{ l.side === 'early' ? '◂' : '▸' }}</span> {{ l.text }} <b>Remove</b>
      </button>
    }
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 12px;
      height: 100%;
      min-width: 0;
      white-space: nowrap;
    }
    :host > span {
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .lean {
      pointer-events: auto;
      padding: 0 8px;
      border: 1px dashed currentColor;
      border-radius: 10px;
      background: var(--paper);
      font: inherit;
      cursor: pointer;
    }
    .early {
      color: var(--early);
    }
    .late {
      color: var(--late);
    }
  `,
})
export class OffsetHead {
  private readonly leans = inject(Leans);
  protected readonly lean = computed(() => {
    const ms = this.leans.part();
    return ms === null ? null : { side: ms < 0 ? 'early' : 'late', text: `${earlyOrLate(ms)} throughout.` };
  });

  protected remove(): void {
    document.querySelector<HTMLElement>('es-timing-view .canvas')?.focus();
    this.leans.takeFromPart();
  }
}
