import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { fileSave } from 'browser-fs-access';
import { BarChart, HeatmapChart, LineChart, ScatterChart } from 'echarts/charts';
import { GridComponent, LegendComponent, TooltipComponent, VisualMapComponent } from 'echarts/components';
import * as echarts from 'echarts/core';
import type { EChartsType } from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';
import { NgxEchartsDirective, provideEchartsCore } from 'ngx-echarts';
import { reportCsv } from '@early-sparrow/core/insight';
import { noteReports } from '@early-sparrow/core/treatment';
import { shortMs, signed } from '../../common/format';
import { readPalette, Theme } from '../../common/theme';
import { Analyst } from '../fits/analyst';
import { Panels } from '../kit/panels';
import { EnsembleFigure } from './ensemble-figure';
import { reportCharts, type Chart } from './report-charts';
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
      <h2 tabindex="-1">Timing report, {{ treating.part()?.name }}</h2>
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
  protected readonly ms = shortMs;
  protected readonly signed = signed;
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
    await fileSave(blob, { fileName: `${part.name} timing.csv`, extensions: ['.csv'] }).catch(() => undefined);
  }

  /** The charts beside each other in one picture. */
  protected async png(): Promise<void> {
    const canvases = this.charts().flatMap(({ title }) => {
      const chart = this.drawn.get(title);
      return chart ? [chart.renderToCanvas({ pixelRatio: 2 })] : [];
    });
    const picture = document.createElement('canvas');
    picture.width = canvases.reduce((sum, c) => sum + c.width, 0);
    picture.height = Math.max(1, ...canvases.map((c) => c.height));
    const ctx = picture.getContext('2d');
    if (!ctx) return;
    ctx.fillStyle = readPalette().paper;
    ctx.fillRect(0, 0, picture.width, picture.height);
    let x = 0;
    for (const canvas of canvases) {
      ctx.drawImage(canvas, x, 0);
      x += canvas.width;
    }
    const blob = await new Promise<Blob | null>((done) => picture.toBlob(done, 'image/png'));
    const name = `${this.treating.part()?.name ?? 'part'} timing.png`;
    if (blob) await fileSave(blob, { fileName: name, extensions: ['.png'] }).catch(() => undefined);
  }
}
