import { ChangeDetectionStrategy, Component, computed, inject, Injector, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { from } from 'rxjs';
import { SongStore } from '../storage/song-store';
import { isLittle, sizeText, StorageRoom } from '../storage/room';
import type { Library } from './library';
import { Offline } from './offline';

/** What the browser keeps, how much room there is, and the way to take all of it somewhere else. */
@Component({
  selector: 'es-library-foot',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section aria-label="Storage">
      @if (library()?.progress(); as at) {
        <p role="status">
          {{ at.what }} … {{ at.done }} of {{ at.all }}
          <button class="word" (click)="library()?.cancel()">Cancel</button>
        </p>
      } @else {
        <p>
          @if (sizes(); as text) {
            <span>{{ text }}</span>
          }
          @if (offline.ready()) {
            <span class="apart">Works without a connection.</span>
          }
          @if (count() > 0) {
            <button class="word" (click)="backUp()">Back up everything</button>
          }
          <button class="word" (click)="bringBack()">Bring back a backup</button>
        </p>
      }
      @if (library()?.said(); as said) {
        <p role="status">{{ said }}</p>
      }
      @if (room.room(); as r) {
        @if (little()) {
          <p class="warn" role="alert">
            The disk is nearly full. Back up what you need and delete what you do not, before a recording finds no room.
          </p>
        }
        @if (!r.safe && count() > 0) {
          <p>
            The browser may delete songs by itself when the disk gets full.
            <button class="word act" (click)="makeSafe()">Ask it to keep them</button>
            @if (refused()) {
              <span role="status"
                >It did not agree. Back up what matters, or install the app: browsers trust those.</span
              >
            }
          </p>
        }
      }
    </section>
  `,
  styles: `
    :host {
      display: block;
    }
    section {
      margin-top: 24px;
      padding-top: 12px;
      font-size: 14px;
      color: var(--soft);
    }
    p {
      margin: 0;
      padding: 2px 0;
    }
    .apart {
      margin-left: 6px;
    }
    .warn {
      color: var(--late);
    }
    .act {
      color: var(--action);
      font-weight: 600;
    }
  `,
})
export class LibraryFoot {
  protected readonly room = inject(StorageRoom);
  protected readonly offline = inject(Offline);
  private readonly songs = toSignal(from(inject(SongStore).list$));
  protected readonly count = computed(() => this.songs()?.length ?? 0);
  protected readonly refused = signal(false);
  /** Loaded once it is wanted: its zip library is not for everybody. */
  protected readonly library = signal<Library | null>(null);
  private readonly injector = inject(Injector);

  protected readonly sizes = computed(() => {
    const room = this.room.room();
    if (!room) return null;
    const { songs, soundFiles, sounds, free } = room;
    return [
      `Kept in this browser: songs ${sizeText(songs)}`,
      ...(soundFiles > 0 ? [`sound files ${sizeText(soundFiles)}`] : []),
      ...(sounds > 0 ? [`instruments ${sizeText(sounds)}`] : []),
      `room for ${sizeText(free)} more.`,
    ].join(', ');
  });
  protected readonly little = computed(() => {
    const room = this.room.room();
    return room !== null && isLittle(room);
  });

  constructor() {
    void this.room.measure();
    void this.offline.look();
  }

  protected async backUp(): Promise<void> {
    await (await this.loaded()).backUp();
  }

  protected async bringBack(): Promise<void> {
    await (await this.loaded()).bringBack();
  }

  private async loaded(): Promise<Library> {
    const { Library } = await import('./library');
    const library = this.injector.get(Library);
    this.library.set(library);
    return library;
  }

  protected async makeSafe(): Promise<void> {
    this.refused.set(!(await this.room.makeSafe()));
  }
}
