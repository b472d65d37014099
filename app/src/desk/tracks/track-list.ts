import { CdkDrag, CdkDragHandle, CdkDropList } from '@angular/cdk/drag-drop';
import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { addTrack } from '@early-sparrow/core/edit';
import type { Part, Song, Track } from '@early-sparrow/core/song';
import { Changes } from '../../state/changes';
import { DeskActions, deskFeature } from '../../state/desk.feature';
import { colourOf } from '../../common/colours';
import { Behind } from '../hand/behind';
import { MuteSolo } from '../controls/mute-solo';
import { ChosenParts } from '../hand/chosen-parts';
import { Mixing } from '../hand/mixing';
import { TrackOrder } from '../hand/track-order';
import { instrumentOf } from '../../common/voices';
import { toggleStrip, TRACK } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { TimingChip } from './timing-chip';

/** The tracks with their tendency and their place in the mix. */
@Component({
  selector: 'es-track-list',
  imports: [CdkDrag, CdkDragHandle, CdkDropList, MuteSolo, TimingChip],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ul
      aria-label="Tracks"
      cdkDropList
      [cdkDropListOrientation]="across.matches ? 'horizontal' : 'vertical'"
      (cdkDropListDropped)="order.put($event.previousIndex, $event.currentIndex)"
    >
      @for (track of tracks(); track track.id) {
        <li
          cdkDrag
          (cdkDragStarted)="order.begin()"
          [cdkDragStartDelay]="{ touch: 300, mouse: 0 }"
          [class.current]="track.id === current()"
          [class.also]="also().includes(track.id)"
        >
          @if (colour(track); as css) {
            <span class="colour" [style.background]="css"></span>
          }
          <button
            cdkDragHandle
            class="name"
            [title]="track.name + ' (Shift-click: add it to the selection; drag: put it elsewhere)'"
            [attr.aria-current]="track.id === current()"
            (click)="select(track, $event)"
          >
            <b>{{ track.name }}</b>
            @if (instrument(track); as name) {
              <span class="soft">{{ name }}</span>
            }
            @if (also().includes(track.id)) {
              <span class="unseen"> (chosen too)</span>
            }
            @if (partOf(track); as part) {
              <es-timing-chip [song]="song()" [part]="part" />
            } @else {
              <span class="soft">empty</span>
            }
          </button>
          <button
            class="word more"
            [attr.aria-label]="'Name and instrument of ' + track.name"
            title="Name, instrument, channel, delay (Shift I)"
            (click)="open(track)"
          >
            …
          </button>
          <div class="mix">
            <es-mute-solo [track]="track" />
            <button
              class="word"
              title="Show its notes behind those of the current track; press again for its lines too"
              [attr.aria-pressed]="behind.shown(track.id) !== null"
              [attr.aria-label]="
                'Show ' + track.name + ' behind' + (behind.shown(track.id) === 'lines' ? ', with its lines' : '')
              "
              (click)="behind.next(track.id)"
            >
              {{ behind.shown(track.id) === 'lines' ? 'B+' : 'B' }}
            </button>
            <input
              #level
              type="range"
              min="0"
              max="100"
              [value]="track.level * 100"
              [title]="'Level ' + percent(track) + ' %'"
              [attr.aria-label]="'Level of ' + track.name"
              [attr.aria-valuetext]="percent(track) + ' %'"
              (input)="mixing.set(track, { level: +level.value / 100 }, true)"
              (change)="mixing.set(track, { level: +level.value / 100 })"
            />
          </div>
        </li>
      }
    </ul>
    <button class="word add" (click)="add()">Add a track</button>
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
      position: relative;
      display: grid;
      padding: 8px 12px 6px 13px;
      border-left: 3px solid transparent;
    }
    .colour {
      position: absolute;
      inset: 8px auto 8px 3px;
      width: 4px;
      border-radius: 2px;
    }
    .cdk-drag-preview {
      background: var(--raised);
      box-shadow: 0 4px 16px color-mix(in srgb, var(--ink) 20%, transparent);
      list-style: none;
    }
    .cdk-drag-placeholder {
      opacity: 0.35;
    }
    .also {
      border-left-color: var(--soft);
      background: color-mix(in srgb, var(--raised) 60%, transparent);
    }
    .add {
      margin: 4px 8px 8px;
      color: var(--soft);
    }
    .current {
      background: var(--raised);
      border-left-color: var(--action);
    }
    .name {
      position: relative;
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
    .name {
      margin-right: 24px;
    }
    .more {
      position: absolute;
      top: 4px;
      right: 8px;
      min-width: 26px;
      padding: 0 6px;
      color: var(--soft);
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
      height: 20px;
      margin: 0 0 0 8px;
      appearance: none;
      background: linear-gradient(var(--line), var(--line)) center / 100% 3px no-repeat;
      cursor: pointer;
    }
    input::-webkit-slider-thumb {
      appearance: none;
      width: 12px;
      height: 12px;
      border-radius: 50%;
      background: var(--soft);
    }
    input::-moz-range-progress {
      background: none;
    }
    input::-moz-range-thumb {
      width: 12px;
      height: 12px;
      border: 0;
      border-radius: 50%;
      background: var(--soft);
    }
    @media (max-width: 1000px) {
      :host {
        display: flex;
        align-items: center;
      }
      ul {
        display: flex;
      }
      .add {
        flex: none;
      }
      li {
        flex: 0 0 172px;
        border-left: 0;
        border-top: 3px solid transparent;
        padding: 4px 10px;
      }
      .current {
        border-top-color: var(--action);
      }
      .also {
        border-top-color: var(--soft);
      }
    }
  `,
})
export class TrackList {
  readonly song = input.required<Song>();
  readonly tracks = input.required<readonly Track[]>();
  readonly current = input.required<string | null>();
  private readonly store = inject(Store);
  protected readonly behind = inject(Behind);
  protected readonly order = inject(TrackOrder);
  protected readonly mixing = inject(Mixing);
  private readonly chosen = inject(ChosenParts);
  protected readonly instrument = instrumentOf;
  /** In a small window the tracks are a row. */
  protected readonly across = matchMedia('(max-width: 1000px)');
  protected readonly colour = (track: Track): string | null => colourOf(null, track);
  private readonly panels = inject(Panels);
  private readonly changes = inject(Changes);
  private readonly part = this.store.selectSignal(deskFeature.selectPart);
  protected readonly also = this.store.selectSignal(deskFeature.selectAlso);

  /** Opens the strip of a track, or closes it. */
  protected open(track: Track): void {
    const opens = !this.panels.isOpen(TRACK) || track.id === this.current();
    if (track.id !== this.current()) this.store.dispatch(DeskActions.selectTrack({ trackId: track.id }));
    if (opens) toggleStrip(this.panels, TRACK);
  }

  /** With Shift, Ctrl or ⌘ a track joins those that a change is for. */
  protected select(track: Track, event: MouseEvent): void {
    const { id: trackId } = track;
    const joins = event.shiftKey || event.ctrlKey || event.metaKey;
    if (!joins) this.chosen.alone();
    this.store.dispatch(joins ? DeskActions.toggleTrack({ trackId }) : DeskActions.selectTrack({ trackId }));
  }

  /** The part that a track's chip tells about: the current one, else its first with notes. */
  protected partOf(track: Track): Part | null {
    const at = this.part();
    return (
      track.parts.find((p) => p.id === at?.id) ??
      track.parts.find((p) => p.notes.length > 0) ??
      track.parts.at(0) ??
      null
    );
  }

  /** An empty track at the end, which becomes the current one. */
  protected add(): void {
    const song = this.store.selectSignal(deskFeature.selectSong)();
    if (!song) return;
    const names = new Set(song.tracks.map((t) => t.name));
    let n = 1;
    while (names.has(`Track ${n}`)) n++;
    this.changes.make(addTrack(song, `Track ${n}`), 'track', { track: `t${song.nextId}`, part: null, selection: [] });
  }

  protected percent(track: Track): number {
    return Math.round(track.level * 100);
  }
}
