import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { DomSanitizer } from '@angular/platform-browser';
import more from '@material-symbols/svg-400/outlined/more_horiz.svg';
import play from '@material-symbols/svg-400/outlined/play_arrow-fill.svg';
import pause from '@material-symbols/svg-400/outlined/pause-fill.svg';
import restore from '@material-symbols/svg-400/outlined/undo.svg';
import stop from '@material-symbols/svg-400/outlined/stop-fill.svg';

const ICONS = { more, play, pause, restore, stop };

export type IconName = keyof typeof ICONS;

/** One icon of the Material Symbols, in the colour of its text. */
@Component({
  selector: 'es-icon',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { 'aria-hidden': 'true', '[innerHTML]': 'svg()' },
  template: '',
  styles: `
    :host {
      display: inline-block;
      width: 20px;
      height: 20px;
      line-height: 0;
      fill: currentColor;
    }
    :host ::ng-deep svg {
      width: 100%;
      height: 100%;
    }
  `,
})
export class Icon {
  readonly name = input.required<IconName>();
  private readonly sanitizer = inject(DomSanitizer);
  // The texts come from the package at build time, not from anyone outside.
  protected readonly svg = computed(() => this.sanitizer.bypassSecurityTrustHtml(ICONS[this.name()]));
}
