import { Injectable, signal } from '@angular/core';

export type ThemeName = 'dawn' | 'dusk';

const KEY = 'early-sparrow.theme';

/** Light (Dawn) or dark (Dusk); kept in this browser. */
@Injectable({ providedIn: 'root' })
export class Theme {
  readonly name = signal<ThemeName>('dawn');

  start(): void {
    this.set(localStorage.getItem(KEY) === 'dusk' ? 'dusk' : 'dawn');
  }

  toggle(): void {
    this.set(this.name() === 'dawn' ? 'dusk' : 'dawn');
  }

  private set(name: ThemeName): void {
    document.documentElement.dataset['theme'] = name;
    localStorage.setItem(KEY, name);
    this.name.set(name);
  }
}

/** The colours that the canvas draws with, read from the theme's CSS roles. */
export interface Palette {
  readonly paper: string;
  readonly raised: string;
  readonly line: string;
  readonly ink: string;
  readonly soft: string;
  readonly action: string;
  readonly early: string;
  readonly late: string;
  readonly onLine: string;
}

export function readPalette(): Palette {
  const style = getComputedStyle(document.documentElement);
  const role = (name: string) => style.getPropertyValue(`--${name}`).trim();
  return {
    paper: role('paper'),
    raised: role('raised'),
    line: role('line'),
    ink: role('ink'),
    soft: role('soft'),
    action: role('action'),
    early: role('early'),
    late: role('late'),
    onLine: role('on-line'),
  };
}
