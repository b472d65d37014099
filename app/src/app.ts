import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { RouterOutlet } from '@angular/router';
import { enterOnce } from './common/enter-once';
import { DropZone } from './songs/drop-zone';
import { Theme } from './common/theme';
import { Updates } from './state/updates';

/** The frame of every page: it takes dropped files anywhere, keeps the theme, and lets a held key press nothing twice. */
@Component({
  selector: 'es-root',
  imports: [RouterOutlet, DropZone],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<router-outlet />
    @defer (on immediate) {
      <es-drop-zone />
    }`,
})
export class App {
  constructor() {
    enterOnce();
    inject(Theme).start();
    inject(Updates).watch();
  }
}
