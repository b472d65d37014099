import { CdkDrag, type CdkDragDrop, CdkDropList } from '@angular/cdk/drag-drop';
import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { sameEach } from '@early-sparrow/core/maths';
import type { Track } from '@early-sparrow/core/song';
import { colourOf } from '../../common/colours';
import { DeskActions } from '../../state/desk.feature';
import { RULER, SongRows } from './song-rows';
import { MuteSolo } from '../controls/mute-solo';
import { ChosenParts } from '../hand/chosen-parts';
import { TrackOrder } from '../hand/track-order';

/** The tracks beside their rows of the song view: chosen, muted, heard alone, and put in order by dragging. */
@Component({
  selector: 'es-song-heads',
  imports: [CdkDrag, CdkDropList, MuteSolo],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ul
      cdkDropList
      aria-label="Tracks of the song view"
      [style.transform]="'translateY(' + offset() + 'px)'"
      (cdkDropListDropped)="drop($event)"
      (wheel)="wheel($event)"
    >
      @for (track of seen(); track track.id) {
        <li
          cdkDrag
          cdkDragLockAxis="y"
          (cdkDragStarted)="order.begin()"
          [cdkDragStartDelay]="{ touch: 300, mouse: 0 }"
          [class.current]="track.id === current()"
          [style.height.px]="rows.row()"
          [style.border-left-color]="colour(track)"
        >
          <button class="name" [title]="track.name" (click)="select(track)">{{ track.name }}</button>
          <es-mute-solo [track]="track" />
        </li>
      }
    </ul>
  `,
  styles: `
    :host {
      display: block;
      overflow: hidden;
      min-height: 0;
    }
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
    }
    li {
      display: flex;
      align-items: center;
      gap: 2px;
      padding: 0 8px 0 10px;
      border-left: 4px solid transparent;
      border-bottom: 1px solid color-mix(in srgb, var(--line) 60%, transparent);
      background: var(--paper);
      cursor: grab;
    }
    .current {
      background: var(--raised);
    }
    .name {
      flex: 1;
      min-width: 0;
      overflow: hidden;
      padding: 0;
      border: 0;
      background: none;
      color: var(--ink);
      font: inherit;
      font-size: 13px;
      text-align: left;
      text-overflow: ellipsis;
      white-space: nowrap;
      cursor: inherit;
    }
    .current .name {
      font-weight: 600;
    }
  `,
})
export class SongHeads {
  readonly current = input.required<string | null>();
  protected readonly rows = inject(SongRows);
  protected readonly order = inject(TrackOrder);
  private readonly chosen = inject(ChosenParts);
  private readonly store = inject(Store);

  /** Index of the first track in view: only those in view are there. */
  private readonly first = computed(() => this.rows.rowsInView()[0]);
  protected readonly seen = computed(() => this.rows.tracks().slice(...this.rows.rowsInView()), {
    equal: sameEach,
  });
  protected readonly offset = computed(() => this.rows.y(this.first()) - RULER);

  protected colour(track: Track): string {
    return colourOf(null, track) ?? 'transparent';
  }

  protected select({ id: trackId }: Track): void {
    this.chosen.alone();
    this.store.dispatch(DeskActions.selectTrack({ trackId }));
  }

  protected drop({ previousIndex, currentIndex }: CdkDragDrop<unknown>): void {
    this.order.put(this.first() + previousIndex, this.first() + currentIndex);
  }

  protected wheel(event: WheelEvent): void {
    if (this.rows.scroll(event.deltaY)) event.preventDefault();
  }
}
