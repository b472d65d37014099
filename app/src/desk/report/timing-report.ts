import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { BarChart, HeatmapChart, LineChart, ScatterChart } from 'echarts/charts';
import { GridComponent, LegendComponent, TooltipComponent, VisualMapComponent } from 'echarts/components';
import * as echarts from 'echarts/core';
import type { EChartsType } from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';
import { NgxEchartsDirective, provideEchartsCore } from 'ngx-echarts';
import { reportCsv } from '@early-sparrow/core/insight';
import { fileName } from '@early-sparrow/core/keeping';
import { noteReports } from '@early-sparrow/core/treatment';
import { shortMs, signed } from '../../common/format';
import { Saving } from '../../common/saving';
import { readPalette, Theme } from '../../common/theme';
import { Analyst } from '../fits/analyst';
import { Panels } from '../kit/panels';
import { EnsembleFigure } from './ensemble-figure';
import { reportCharts, type Chart } from './report-charts';
import { reportPicture, SHARPNESS } from './report-picture';
import { Treating } from '../hand/treating';

echarts.use([
  BarChart,
  HeatmapChart,
  LineChart,
  ScatterChart,
  GridComponent,
  LegendComponent,
  TooltipComponent,
  VisualMapComponent,
  CanvasRenderer,
]);

/** What the player did, in pictures: offsets before and after, drift, offsets by key, swing, and what fits. */
@Component({
  selector: 'es-timing-report',
  imports: [EnsembleFigure, NgxEchartsDirective],
  providers: [provideEchartsCore({ echarts })],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header>
      <h2 tabindex="-1">{{ heading() }}</h2>
      <button class="word" (click)="csv()">Save as CSV</button>
      <button class="word" (click)="png()">Save as PNG</button>
      <button class="word" (click)="panels.close('report')">Close</button>
    </header>
    <div class="charts">
      @for (chart of charts(); track chart.title) {
        <figure>
          <figcaption>{{ chart.title }}</figcaption>
          <div echarts class="chart" [options]="chart.options" (chartInit)="keep(chart.title, $event)"></div>
        </figure>
      }
      <figure>
        <figcaption>What fits</figcaption>
        <table>
          <thead>
            <tr>
              <th scope="col">Grid</th>
              <th scope="col">Miss, ms</th>
              <th scope="col">Merges</th>
              <th scope="col">Lag, ms</th>
            </tr>
          </thead>
          <tbody>
            @for (fit of fits(); track fit.text) {
              <tr>
                <td class="number">{{ fit.text }}</td>
                <td class="number">{{ ms(fit.missMs) }}</td>
                <td class="number">{{ fit.merges }}</td>
                <td class="number">{{ signed(fit.lagMs) }}</td>
              </tr>
            }
          </tbody>
        </table>
      </figure>
    </div>
    <es-ensemble-figure />
  `,
  styles: `
    :host {
      display: block;
      border-top: 1px solid var(--line);
      background: var(--paper);
      padding: 8px 16px 12px;
      overflow: auto;
    }
    header {
      display: flex;
      align-items: center;
      gap: 4px;
    }
    h2 {
      flex: 1;
      margin: 0;
      font-size: 16px;
    }
    .charts {
      display: grid;
      grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
      gap: 16px;
    }
    figure {
      margin: 0;
      min-width: 0;
    }
    figcaption {
      font-size: 13px;
      color: var(--soft);
    }
    .chart {
      height: 170px;
    }
    table {
      width: 100%;
      border-collapse: collapse;
      font-size: 13px;
    }
    th {
      color: var(--soft);
      font-weight: 400;
      text-align: right;
    }
    td {
      text-align: right;
      padding: 2px 0;
      border-top: 1px solid var(--line);
    }
    /* A sign stays with its number. */
    th + th,
    td + td {
      padding-left: 4px;
      white-space: nowrap;
    }
    th:first-child,
    td:first-child {
      text-align: left;
    }
  `,
})
export class TimingReport {
  protected readonly treating = inject(Treating);
  protected readonly panels = inject(Panels);
  private readonly analyst = inject(Analyst);
  private readonly theme = inject(Theme);
  private readonly saving = inject(Saving);
  protected readonly ms = shortMs;
  protected readonly signed = signed;
  protected readonly heading = computed(() => `Timing report, ${this.treating.part()?.name ?? ''}`);
  protected readonly fits = computed(() => this.analyst.analysis()?.fits.slice(0, 7) ?? []);
  private readonly drawn = new Map<string, EChartsType>();

  protected readonly charts = computed((): Chart[] => {
    const part = this.treating.part();
    const song = this.treating.song();
    const track = this.treating.track();
    if (!part || !song || !track) return [];
    this.theme.name();
    return reportCharts(part, song, track, this.analyst.analysis()?.swing ?? null, readPalette());
  });

  protected keep(title: string, chart: EChartsType): void {
    this.drawn.set(title, chart);
  }

  protected async csv(): Promise<void> {
    const part = this.treating.part();
    const song = this.treating.song();
    if (!part || !song) return;
    const blob = new Blob([reportCsv(noteReports(part, song))], { type: 'text/csv' });
    await this.saving.save(blob, `${this.name()} timing.csv`);
  }

  /** The charts beside each other in one picture. */
  protected async png(): Promise<void> {
    const drawn = this.charts().flatMap(({ title }) => {
      const chart = this.drawn.get(title);
      return chart ? [{ title, canvas: chart.renderToCanvas({ pixelRatio: SHARPNESS }) }] : [];
    });
    const picture = reportPicture(this.heading(), drawn, readPalette());
    const blob = await new Promise<Blob | null>((done) => picture.toBlob(done, 'image/png'));
    if (blob) await this.saving.save(blob, `${this.name()} timing.png`);
  }

  private name(): string {
    return fileName(this.treating.part()?.name ?? 'part');
  }
}
