import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { LANES } from '../kit/lane';
import { LaneBook } from '../kit/lane-book';

/** Which lanes are open under the roll. */
@Component({
  selector: 'es-lanes-menu',
  imports: [MatMenuModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <button class="word" [matMenuTriggerFor]="menu" title="Open and fold the lanes under the roll">lanes</button>
    <mat-menu #menu="matMenu">
      @for (lane of lanes; track lane.id) {
        <button
          mat-menu-item
          role="menuitemcheckbox"
          [attr.aria-checked]="book.isOpen(lane.id)"
          (click)="book.toggle(lane.id); $event.stopPropagation()"
        >
          {{ book.isOpen(lane.id) ? '✓' : ' ' }} {{ lane.name }}
        </button>
      }
    </mat-menu>
  `,
})
export class LanesMenu {
  protected readonly book = inject(LaneBook);
  protected readonly lanes = [...inject(LANES)].sort((a, b) => a.order - b.order).filter((l) => this.book.has(l.id));
}
