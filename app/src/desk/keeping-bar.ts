import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { countedFirst } from '../common/format';
import { Said } from '../common/said';
import { DeskActions, deskFeature } from '../state/desk.feature';
import { SongStore } from '../storage/song-store';
import { Exporter } from './files/exporter';

/** What is to be said about how the song is kept, with the ways out. */
interface Notice {
  readonly text: string;
  readonly ways: readonly { readonly text: string; readonly go: () => void }[];
}

/** A strip that tells when the song is not kept as it should be: by whom it is written, and what stands in the way. */
@Component({
  selector: 'es-keeping-bar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (notice(); as n) {
      <p role="alert">
        <span>{{ n.text }}</span>
        @for (way of n.ways; track way.text) {
          <button class="word act" (click)="way.go()">{{ way.text }}</button>
        }
      </p>
    }
  `,
  styles: `
    :host {
      display: block;
      min-width: 0;
    }
    p {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 2px 8px;
      margin: 0;
      padding: 2px 8px 2px 12px;
      border-bottom: 1px solid var(--line);
      border-left: 3px solid var(--late);
      background: var(--raised);
      font-size: 14px;
    }
    .act {
      color: var(--action);
      font-weight: 600;
    }
  `,
})
export class KeepingBar {
  private readonly store = inject(Store);
  private readonly songs = inject(SongStore);
  private readonly exporter = inject(Exporter);
  private readonly said = inject(Said);
  private readonly songId = this.store.selectSignal(deskFeature.selectSongId);
  private readonly writing = this.store.selectSignal(deskFeature.selectWriting);
  private readonly role = this.store.selectSignal(deskFeature.selectRole);
  private readonly damage = this.store.selectSignal(deskFeature.selectDamage);

  protected readonly notice = computed((): Notice | null => {
    const { trouble, unsaved } = this.writing();
    const file = { text: 'Export as a MIDI file', go: () => void this.exporter.midi('corrected') };
    const copy = { text: 'Save a copy', go: () => this.store.dispatch(DeskActions.keepCopy()) };
    switch (trouble) {
      case 'failed':
        return {
          text:
            'The browser cannot save your changes. Its disk may be full. Saving is tried again and again: ' +
            `${countedFirst(unsaved, 'step')} ${unsaved === 1 ? 'waits' : 'wait'} in this tab. Free some space and leave the tab open.`,
          ways: [file],
        };
      case 'gone':
        return {
          text: 'This song was deleted in another tab, or the browser’s data was cleared. This tab has the only copy.',
          ways: [{ text: 'Save it again', go: () => this.store.dispatch(DeskActions.keepAgain()) }, file],
        };
      case 'conflict':
        return {
          text: `Another tab is editing this song now. ${countedFirst(unsaved, 'change')} made here ${unsaved === 1 ? 'was' : 'were'} not saved.`,
          ways: [copy, file],
        };
    }
    if (this.role() === 'reader') {
      return {
        text: 'This song is being edited in another tab. Changes made there show here.',
        ways: [{ text: 'Edit here', go: () => this.store.dispatch(DeskActions.takeOver()) }],
      };
    }
    const damage = this.damage();
    if (damage === null) return null;
    return {
      text: damage,
      ways: [
        { text: 'Export the damaged steps', go: () => void this.saveRecord() },
        { text: 'Dismiss', go: () => this.store.dispatch(DeskActions.damageDealtWith()) },
      ],
    };
  });

  private async saveRecord(): Promise<void> {
    const id = this.songId();
    if (id === null) return;
    if (await this.exporter.record(id, await this.songs.record(id))) {
      this.store.dispatch(DeskActions.damageDealtWith());
      this.said.say('The damaged steps are in the file, exactly as they were stored.');
    }
  }
}
