import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import type { Track } from '@early-sparrow/core/song';
import { Mixing } from '../hand/mixing';

/** Mutes a track, or lets it sound alone. */
@Component({
  selector: 'es-mute-solo',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <button
      class="word"
      title="Mute"
      [attr.aria-pressed]="track().mute"
      [attr.aria-label]="'Mute ' + track().name"
      (click)="mixing.set(track(), { mute: !track().mute })"
    >
      M
    </button>
    <button
      class="word"
      title="Solo"
      [attr.aria-pressed]="track().solo"
      [attr.aria-label]="'Solo ' + track().name"
      (click)="mixing.set(track(), { solo: !track().solo })"
    >
      S
    </button>
  `,
  styles: `
    :host {
      display: contents;
    }
    .word {
      min-width: 26px;
      padding: 1px 6px;
      color: var(--soft);
    }
    .word[aria-pressed='true'] {
      color: var(--on-action);
      background: var(--action);
    }
  `,
})
export class MuteSolo {
  readonly track = input.required<Track>();
  protected readonly mixing = inject(Mixing);
}
