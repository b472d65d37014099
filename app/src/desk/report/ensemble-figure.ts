import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  type OnDestroy,
  signal,
  untracked,
} from '@angular/core';
import { Store } from '@ngrx/store';
import { NgxEchartsDirective } from 'ngx-echarts';
import { onsetsOf, playingTracks, type Asynchronies } from '@early-sparrow/core/insight';
import { noteCount, type Song, type Track } from '@early-sparrow/core/song';
import { signed } from '../../common/format';
import { readPalette, Theme } from '../../common/theme';
import { HEAVY, Rest } from '../../common/unhurried';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';
import type { AnalysisApi } from '../../workers/analysis-api';
import { analysisWorker } from '../../workers/analysis-worker';
import { Cancelled, WorkerLink } from '../../workers/worker-link';
import { cellWords, COLUMN, ensembleChart, ROW } from './ensemble-chart';

/** What was found, for the tracks that it was found for. */
interface Found {
  readonly tracks: readonly Track[];
  readonly cells: Asynchronies;
}

/** Who is ahead of whom: all tracks against each other, as a heat map or as a table. A press lines one up with the other. */
@Component({
  selector: 'es-ensemble-figure',
  imports: [NgxEchartsDirective],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <figure>
      <figcaption>
        With each other, {{ corrected() ? 'corrected' : 'as played' }}: how many ms the row is behind the column. Press
        a cell to line up the row with the column.
        <button class="word" [attr.aria-pressed]="asTable()" (click)="asTable.set(!asTable())">As a table</button>
      </figcaption>
      @if (found(); as found) {
        @if (names().length < 2) {
          <p class="soft">Only one track plays, so there is nobody to compare it with.</p>
        } @else {
          @if (!asTable()) {
            <div class="scroll" role="img" tabindex="0" aria-label="Who is ahead of whom, as a heat map">
              <!-- Names of their own, so that they stay while the map goes by. -->
              <div class="map">
                <span class="corner"></span>
                <div class="top">
                  @for (name of names(); track $index) {
                    <span [style.width.px]="column" [title]="name">{{ name }}</span>
                  }
                </div>
                <div class="side">
                  @for (name of names(); track $index) {
                    <span [style.height.px]="row" [title]="name">{{ name }}</span>
                  }
                </div>
                <div
                  echarts
                  [style.width.px]="names().length * column"
                  [style.height.px]="names().length * row"
                  [options]="options()"
                  (chartClick)="press($event)"
                ></div>
              </div>
            </div>
          }
          <div [class]="asTable() ? 'scroll' : 'unseen'">
            <table aria-label="Who is ahead of whom">
              <thead>
                <tr>
                  <td></td>
                  @for (name of names(); track $index) {
                    <th scope="col">{{ name }}</th>
                  }
                </tr>
              </thead>
              <tbody>
                @for (row of found.cells; track $index; let y = $index) {
                  <tr>
                    <th scope="row">{{ names()[y] }}</th>
                    @for (cell of row; track $index; let x = $index) {
                      <td>
                        @if (cell) {
                          <button
                            class="word number"
                            [tabindex]="asTable() ? 0 : -1"
                            [title]="words(y, x)"
                            [attr.aria-label]="words(y, x)"
                            (click)="lineUp(y, x)"
                          >
                            {{ signed(cell.ms) }}
                          </button>
                        } @else {
                          <span [attr.aria-label]="x === y ? '' : words(y, x)">{{ x === y ? '' : '–' }}</span>
                        }
                      </td>
                    }
                  </tr>
                }
              </tbody>
            </table>
          </div>
        }
      } @else {
        <p class="soft" role="status">{{ problem() ?? 'Comparing the tracks …' }}</p>
      }
    </figure>
  `,
  styles: `
    figure {
      position: relative;
      margin: 12px 0 0;
    }
    figcaption,
    .soft {
      font-size: 13px;
      color: var(--soft);
    }
    .scroll {
      max-height: 340px;
      overflow: auto;
    }
    .map {
      display: grid;
      grid-template-columns: 130px auto;
      width: max-content;
    }
    .top,
    .side,
    .corner,
    .scroll th {
      position: sticky;
      z-index: 1;
      background: var(--paper);
    }
    .top,
    .corner,
    .scroll thead th {
      top: 0;
    }
    .side,
    .corner,
    .scroll tbody th {
      left: 0;
    }
    .corner {
      z-index: 2;
    }
    .top {
      display: flex;
    }
    .top span,
    .side span {
      display: block;
      overflow: hidden;
      padding: 2px 4px;
      color: var(--soft);
      font-size: 12px;
      text-align: center;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .side span {
      padding: 4px 8px 0 0;
      text-align: right;
    }
    table {
      border-collapse: collapse;
      font-size: 13px;
    }
    th {
      max-width: 130px;
      overflow: hidden;
      padding: 2px 6px;
      color: var(--soft);
      font-weight: 400;
      text-align: left;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    td {
      border-top: 1px solid var(--line);
      text-align: right;
    }
  `,
})
export class EnsembleFigure implements OnDestroy {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly theme = inject(Theme);
  private readonly link = new WorkerLink<AnalysisApi>(analysisWorker);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly compare = this.store.selectSignal(deskFeature.selectCompare);
  private asked: AbortController | null = null;
  protected readonly signed = signed;
  protected readonly column = COLUMN;
  protected readonly row = ROW;
  protected readonly asTable = signal(false);
  protected readonly found = signal<Found | null>(null);
  protected readonly problem = signal<string | null>(null);
  protected readonly corrected = computed(() => this.compare() === 'corrected');
  protected readonly names = computed(() => this.found()?.tracks.map((t) => t.name) ?? []);
  protected readonly options = computed(() => {
    this.theme.name();
    return ensembleChart(this.names(), this.found()?.cells ?? [], readPalette());
  });

  constructor() {
    const rest = new Rest();
    effect((onCleanup) => {
      const [song, corrected] = [this.song(), this.corrected()];
      if (!song) return;
      const ask = () => untracked(() => void this.ask(song, corrected));
      // In a long song it waits until the picture has come to rest.
      const notes = song.tracks.reduce((sum, t) => sum + noteCount(t), 0);
      if (notes <= HEAVY) ask();
      else onCleanup(rest.wait(ask));
    });
  }

  ngOnDestroy(): void {
    this.asked?.abort();
    this.link.end();
  }

  protected words(y: number, x: number): string {
    return cellWords(this.names()[y], this.names()[x], this.found()?.cells[y][x] ?? null);
  }

  protected press({ value }: { value?: unknown }): void {
    if (Array.isArray(value)) this.lineUp(Number(value[1]), Number(value[0]));
  }

  /** The row's parts put their starts on lines that follow the column's notes: one step. */
  protected lineUp(y: number, x: number): void {
    const [song, own, other] = [this.song(), this.found()?.tracks[y], this.found()?.tracks[x]];
    const track = song?.tracks.find((t) => t.id === own?.id);
    if (!track || !other) return;
    const name = `Line up ${track.name} with ${other.name}`;
    const edits = track.parts.map((part) => {
      const { quantize } = part.treatment;
      const lined = { ...quantize, on: true, starts: true, with: { track: other.id, as: 'played' as const } };
      return { kind: 'treatment' as const, name, part: part.id, treatment: { ...part.treatment, quantize: lined } };
    });
    this.changes.make({ kind: 'several', name, edits }, 'treat', { track: track.id, part: null, selection: [] });
  }

  private async ask(song: Song, corrected: boolean): Promise<void> {
    this.asked?.abort();
    const asked = new AbortController();
    this.asked = asked;
    const tracks = playingTracks(song);
    const onsets = tracks.map((t) => onsetsOf(t, song, corrected));
    try {
      const cells = await this.link.ask((api) => api.together(onsets), { signal: asked.signal });
      this.problem.set(null);
      this.found.set({ tracks, cells });
    } catch (error) {
      if (!(error instanceof Cancelled))
        this.problem.set('The tracks could not be compared. Close the report and open it again.');
    }
  }
}
