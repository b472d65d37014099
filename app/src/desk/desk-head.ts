import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { Theme } from '../common/theme';
import { Player } from '../sound/player';
import { DeskActions, deskFeature, type Compare } from '../state/desk.feature';
import { EXPORT, HISTORY, openStrip, toggleStrip } from './kit/foot-strips';
import { Panels } from './kit/panels';
import { Bringing } from './files/bringing';
import { Exporter } from './files/exporter';
import { LongSteps } from './hand/long-steps';
import { Turns } from './hand/turns';
import { AudioImport } from './listening/audio-import';
import { SOUND } from './listening/room';

/** The head of the desk: which song, what was done, and the switch between before and after. */
@Component({
  selector: 'es-desk-head',
  imports: [RouterLink, MatMenuModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <a class="home" routerLink="/" title="All songs"
      ><img src="sparrow.svg" alt="All songs" width="32" height="24"
    /></a>
    <div class="title">
      <h1 [title]="song()?.name">{{ song()?.name }}</h1>
      <span class="soft" role="status">{{ saved() }}</span>
    </div>
    <div class="compare" role="radiogroup" aria-label="Hear and see">
      @for (side of sides; track side.which) {
        <button
          role="radio"
          [attr.aria-checked]="player.shown() === side.which"
          [tabindex]="compare() === side.which ? 0 : -1"
          (click)="choose(side.which)"
          (keydown)="arrow($event)"
        >
          {{ side.text }}
        </button>
      }
    </div>
    <span class="hold soft" title="Hold \\ to hear and see the other side"><kbd>\\</kbd><span> hold</span></span>
    <nav>
      <button class="word" [disabled]="!undoName()" [title]="undoName() ?? 'Nothing to undo'" (click)="undo()">
        Undo
      </button>
      <button class="word" [disabled]="!redoName()" [title]="redoName() ?? 'Nothing to redo'" (click)="redo()">
        Redo
      </button>
      <button class="word wide" title="Every step (Shift H)" (click)="toggleHistory()">History</button>
      <span class="rule"></span>
      <button class="word wide" [matMenuTriggerFor]="imports">Import</button>
      <mat-menu #imports="matMenu">
        <button mat-menu-item (click)="bringing.choose()">MIDI file into this song</button>
        <button mat-menu-item (click)="sound()">Sound file into this song</button>
      </mat-menu>
      <button class="word" [matMenuTriggerFor]="exports">Export</button>
      <mat-menu #exports="matMenu">
        <button mat-menu-item (click)="exporter.midi('corrected')">MIDI file, corrected</button>
        <button mat-menu-item (click)="exporter.midi('played')">MIDI file, as played</button>
        <button mat-menu-item (click)="exporter.songFile()">Song file, with everything</button>
        <button mat-menu-item (click)="moreExports()">Track, part, loop, selection …</button>
      </mat-menu>
      <button class="word wide" (click)="panels.toggle('report')">Report</button>
      <button class="word wide" (click)="panels.open('commands')">Commands</button>
      <button class="word" (click)="theme.toggle()">{{ theme.name() === 'dawn' ? 'Dusk' : 'Dawn' }}</button>
      <button
        class="word drawer"
        [attr.aria-expanded]="panels.isOpen('treatment')"
        (click)="panels.toggle('treatment')"
      >
        Treatment
      </button>
    </nav>
    <button class="word more" aria-label="All commands" (click)="panels.open('commands')">More</button>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: auto minmax(0, 1fr) auto auto minmax(0, 1fr);
      align-items: center;
      gap: 12px;
      padding: 0 16px;
      border-bottom: 1px solid var(--line);
    }
    .home {
      line-height: 0;
    }
    .title {
      display: flex;
      align-items: baseline;
      gap: 10px;
      min-width: 0;
    }
    h1 {
      margin: 0;
      font-size: 17px;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .soft {
      color: var(--soft);
      font-size: 14px;
      white-space: nowrap;
    }
    .compare {
      display: flex;
      border: 1.5px solid var(--ink);
      border-radius: 10px;
      overflow: hidden;
    }
    .compare button {
      white-space: nowrap;
      border: 0;
      background: none;
      color: var(--ink);
      font: inherit;
      padding: 4px 16px;
      cursor: pointer;
    }
    .compare button[aria-checked='true'] {
      background: var(--ink);
      color: var(--paper);
    }
    nav {
      display: flex;
      justify-content: end;
      align-items: center;
      gap: 2px;
    }
    .rule {
      width: 1px;
      height: 20px;
      margin: 0 6px;
      background: var(--line);
    }
    kbd {
      font-family: var(--number);
      border: 1px solid var(--line);
      border-radius: 4px;
      padding: 0 5px;
    }
    .drawer,
    .more {
      display: none;
    }
    @media (max-width: 1380px) {
      .hold span {
        display: none;
      }
    }
    @media (max-width: 1000px) {
      :host {
        grid-template-columns: auto minmax(110px, 1fr) auto auto auto auto;
        gap: 8px;
      }
      /* What is rare is in the list of commands; the name of the song is not to go for it. */
      .title .soft,
      .wide {
        display: none;
      }
      .drawer {
        display: inline-block;
        color: var(--action);
        font-weight: 600;
      }
      .more {
        display: inline-block;
      }
    }
    @media (max-width: 700px) {
      :host {
        grid-template-columns: auto minmax(0, 1fr) auto;
        grid-template-rows: 44px 40px;
        gap: 0 8px;
        padding: 0 8px;
      }
      .title .soft,
      .rule,
      .wide {
        display: none;
      }
      .compare button {
        padding: 4px 12px;
      }
      .compare {
        grid-row: 2;
        grid-column: 1 / 3;
        justify-self: start;
      }
      nav {
        grid-column: 3;
        grid-row: 1;
      }
      nav .drawer {
        order: 9;
      }
      .more {
        grid-column: 3;
        grid-row: 2;
        justify-self: end;
      }
    }
    @media (max-width: 1180px) {
      .hold {
        display: none;
      }
    }
    /* Its room goes to the song's name. */
    @media (min-width: 1001px) and (max-width: 1180px) {
      :host {
        grid-template-columns: auto minmax(0, 1fr) auto auto;
      }
    }
  `,
})
export class DeskHead {
  private readonly store = inject(Store);
  protected readonly player = inject(Player);
  protected readonly theme = inject(Theme);
  protected readonly bringing = inject(Bringing);
  private readonly audio = inject(AudioImport);
  protected readonly exporter = inject(Exporter);
  protected readonly panels = inject(Panels);
  private readonly steps = inject(LongSteps);
  private readonly turns = inject(Turns);
  protected readonly song = this.store.selectSignal(deskFeature.selectSong);
  protected readonly undoName = this.store.selectSignal(deskFeature.selectUndoName);
  protected readonly redoName = this.store.selectSignal(deskFeature.selectRedoName);
  protected readonly compare = this.store.selectSignal(deskFeature.selectCompare);
  private readonly writing = this.store.selectSignal(deskFeature.selectWriting);
  private readonly role = this.store.selectSignal(deskFeature.selectRole);
  protected readonly saved = computed(() => {
    const { unsaved, trouble } = this.writing();
    if (trouble) return 'not saved';
    if (this.role() === 'reader') return 'read only';
    if (this.turns.working()) return 'working …';
    return unsaved > 0 ? 'saving …' : 'saved';
  });
  protected readonly sides: readonly { which: Compare; text: string }[] = [
    { which: 'played', text: 'As played' },
    { which: 'corrected', text: 'Corrected' },
  ];

  protected choose(which: Compare): void {
    this.store.dispatch(DeskActions.compare({ which }));
  }

  /** Arrow keys go to the other of the two, as in every group of radio buttons. */
  protected arrow(event: KeyboardEvent): void {
    if (!event.key.startsWith('Arrow') || event.altKey) return;
    event.preventDefault();
    this.choose(this.compare() === 'played' ? 'corrected' : 'played');
    const group = (event.currentTarget as HTMLElement).parentElement;
    setTimeout(() => group?.querySelector<HTMLElement>('[tabindex="0"]')?.focus());
  }

  /** The strip in which one says how the file is to lie comes with it. */
  protected sound(): void {
    this.panels.open(SOUND);
    void this.audio.open();
  }

  protected moreExports(): void {
    openStrip(this.panels, EXPORT);
  }

  protected toggleHistory(): void {
    toggleStrip(this.panels, HISTORY);
  }

  protected undo(): void {
    this.steps.undo();
  }

  protected redo(): void {
    this.steps.redo();
  }
}
