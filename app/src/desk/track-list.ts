import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import type { Song, Track } from '@early-sparrow/core/song';
import { DeskActions, deskFeature } from '../state/desk.feature';
import { TimingChip } from './timing-chip';

/** The tracks with their tendency and their place in the mix. */
@Component({
  selector: 'es-track-list',
  imports: [TimingChip],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ul aria-label="Tracks">
      @for (track of tracks(); track track.id) {
        <li [class.current]="track.id === current()" [class.also]="also().includes(track.id)">
          <button
            class="name"
            [title]="track.name + ' (Shift: together with the others)'"
            [attr.aria-current]="track.id === current()"
            (click)="select(track, $event)"
          >
            <b>{{ track.name }}</b>
            <es-timing-chip [song]="song()" [track]="track" />
          </button>
          <div class="mix">
            <button
              class="word"
              title="Mute"
              [attr.aria-pressed]="track.mute"
              [attr.aria-label]="'Mute ' + track.name"
              (click)="mix(track, { mute: !track.mute })"
            >
              M
            </button>
            <button
              class="word"
              title="Solo"
              [attr.aria-pressed]="track.solo"
              [attr.aria-label]="'Solo ' + track.name"
              (click)="mix(track, { solo: !track.solo })"
            >
              S
            </button>
            <input
              type="range"
              min="0"
              max="100"
              [value]="track.level * 100"
              [attr.aria-label]="'Level of ' + track.name"
              (change)="mix(track, { level: +$any($event.target).value / 100 })"
            />
          </div>
        </li>
      }
    </ul>
  `,
  styles: `
    :host {
      display: block;
      overflow: auto;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0;
    }
    li {
      display: grid;
      padding: 8px 12px 6px 13px;
      border-left: 3px solid transparent;
    }
    .also {
      border-left-color: var(--soft);
      background: color-mix(in srgb, var(--raised) 60%, transparent);
    }
    .current {
      background: var(--raised);
      border-left-color: var(--action);
    }
    .name {
      display: grid;
      min-width: 0;
      gap: 1px;
      padding: 0;
      border: 0;
      background: none;
      font: inherit;
      color: inherit;
      text-align: left;
      cursor: pointer;
    }
    b {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .mix {
      display: flex;
      align-items: center;
      gap: 2px;
      margin-left: -6px;
    }
    .mix button {
      color: var(--soft);
      min-width: 26px;
      padding: 1px 6px;
    }
    .mix button[aria-pressed='true'] {
      color: var(--on-action);
      background: var(--action);
    }
    input {
      flex: 1;
      width: 40px;
      min-width: 0;
      height: 3px;
      margin: 0 0 0 8px;
      appearance: none;
      border-radius: 2px;
      background: var(--line);
    }
    input::-webkit-slider-thumb {
      appearance: none;
      width: 12px;
      height: 12px;
      border-radius: 50%;
      background: var(--soft);
    }
    input::-moz-range-thumb {
      width: 12px;
      height: 12px;
      border: 0;
      border-radius: 50%;
      background: var(--soft);
    }
  `,
})
export class TrackList {
  readonly song = input.required<Song>();
  readonly tracks = input.required<readonly Track[]>();
  readonly current = input.required<string | null>();
  private readonly store = inject(Store);
  protected readonly also = this.store.selectSignal(deskFeature.selectAlso);

  /** With Shift, Ctrl or ⌘ a track joins those that a change is for. */
  protected select(track: Track, event: MouseEvent): void {
    const { id: trackId } = track;
    const joins = event.shiftKey || event.ctrlKey || event.metaKey;
    this.store.dispatch(joins ? DeskActions.toggleTrack({ trackId }) : DeskActions.selectTrack({ trackId }));
  }

  protected mix(track: Track, change: Partial<Pick<Track, 'mute' | 'solo' | 'level'>>): void {
    const { mute, solo, level } = track;
    const [what] = Object.keys(change);
    const name = `${what[0].toUpperCase()}${what.slice(1)} of ${track.name}`;
    this.store.dispatch(
      DeskActions.edit({ edit: { kind: 'mix', name, track: track.id, mute, solo, level, ...change } }),
    );
  }
}
