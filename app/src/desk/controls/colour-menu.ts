import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { COLOURS } from '../../common/colours';

/** A button with the colours of tracks and parts behind it, each with its name. */
@Component({
  selector: 'es-colour-menu',
  imports: [MatMenuModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <button class="word" [matMenuTriggerFor]="menu" [disabled]="disabled()" [attr.aria-label]="label()">
      <span class="dot" [style.background]="css()"></span> Colour
    </button>
    <mat-menu #menu="matMenu">
      <button mat-menu-item (click)="picked.emit(null)"><span class="dot"></span> None</button>
      @for (colour of colours; track colour.name) {
        <button mat-menu-item (click)="picked.emit($index)">
          <span class="dot" [style.background]="colour.css"></span> {{ colour.name }}
        </button>
      }
    </mat-menu>
  `,
  styles: `
    .dot {
      display: inline-block;
      width: 12px;
      height: 12px;
      margin-right: 6px;
      border: 1px solid var(--line);
      border-radius: 50%;
      vertical-align: -1px;
    }
  `,
})
export class ColourMenu {
  readonly label = input.required<string>();
  /** Index of the colour that it shows; null for none. */
  readonly value = input.required<number | null>();
  readonly disabled = input(false);
  readonly picked = output<number | null>();
  protected readonly colours = COLOURS;

  protected css(): string | null {
    const value = this.value();
    return value === null ? null : COLOURS[value].css;
  }
}
