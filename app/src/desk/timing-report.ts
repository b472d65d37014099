import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { fileSave } from 'browser-fs-access';
import { BarChart, LineChart, ScatterChart } from 'echarts/charts';
import { GridComponent, LegendComponent, TooltipComponent } from 'echarts/components';
import * as echarts from 'echarts/core';
import type { EChartsCoreOption, EChartsType } from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';
import { NgxEchartsDirective, provideEchartsCore } from 'ngx-echarts';
import { driftCurve, pitchTendencies, reportCsv } from '@early-sparrow/core/insight';
import { isDrums, percussionName } from '@early-sparrow/core/sound';
import { meterOf } from '@early-sparrow/core/song';
import { noteReports } from '@early-sparrow/core/treatment';
import { pitchName, shortMs } from '../common/format';
import { readPalette, Theme } from '../common/theme';
import { Analyst } from './analyst';
import { Commands } from './commands';
import { pictureOf } from './picture';
import { Treating } from './treating';

echarts.use([BarChart, LineChart, ScatterChart, GridComponent, LegendComponent, TooltipComponent, CanvasRenderer]);

const BINS = 31;

/** What the player did, in pictures: offsets before and after, drift, offsets by key, swing, and what fits. */
@Component({
  selector: 'es-timing-report',
  imports: [NgxEchartsDirective],
  providers: [provideEchartsCore({ echarts })],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header>
      <h2>Timing report, {{ treating.part()?.name }}</h2>
      <button class="word" (click)="csv()">Save as CSV</button>
      <button class="word" (click)="png()">Save as PNG</button>
      <button class="word" (click)="commands.reportOpen.set(false)">Close</button>
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
              <th scope="col">Miss</th>
              <th scope="col">Merges</th>
              <th scope="col">Lag</th>
            </tr>
          </thead>
          <tbody>
            @for (fit of fits(); track fit.text) {
              <tr>
                <td class="number">{{ fit.text }}</td>
                <td class="number">{{ ms(fit.missMs) }} ms</td>
                <td class="number">{{ fit.merges }}</td>
                <td class="number">{{ fit.lagMs }} ms</td>
              </tr>
            }
          </tbody>
        </table>
      </figure>
    </div>
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
    th:first-child,
    td:first-child {
      text-align: left;
    }
  `,
})
export class TimingReport {
  protected readonly treating = inject(Treating);
  protected readonly commands = inject(Commands);
  private readonly analyst = inject(Analyst);
  private readonly theme = inject(Theme);
  protected readonly ms = shortMs;
  protected readonly fits = computed(() => this.analyst.analysis()?.fits.slice(0, 7) ?? []);
  private readonly drawn = new Map<string, EChartsType>();

  protected readonly charts = computed((): { title: string; options: EChartsCoreOption }[] => {
    const part = this.treating.part();
    const song = this.treating.song();
    const track = this.treating.track();
    if (!part || !song || !track) return [];
    this.theme.name();
    const colors = readPalette();
    const picture = pictureOf(part, song);
    const meter = meterOf(song);
    const reach = Math.max(20, Math.ceil(picture.wideMs / 10) * 10 + 10);
    const bin = (offsets: readonly number[]) => {
      const counts = new Array<number>(BINS).fill(0);
      for (const ms of offsets) {
        const k = Math.floor(((ms + reach) / (2 * reach)) * BINS);
        if (k >= 0 && k < BINS) counts[k]++;
      }
      return counts;
    };
    const middles = Array.from({ length: BINS }, (_, k) => Math.round(((k + 0.5) / BINS) * 2 * reach - reach));
    const axis = {
      axisLabel: { color: colors.soft, fontSize: 11 },
      axisLine: { lineStyle: { color: colors.line } },
      splitLine: { lineStyle: { color: colors.line } },
    };
    const barAxis = {
      type: 'value',
      min: 'dataMin',
      max: 'dataMax',
      ...axis,
      splitLine: { show: false },
      axisLabel: { ...axis.axisLabel, formatter: (v: number) => String(Math.floor(v)) },
    };
    const common = {
      animation: false,
      grid: { left: 36, right: 8, top: 26, bottom: 22 },
      textStyle: { fontFamily: 'Atkinson Hyperlegible Next', color: colors.soft },
      // Drawn on the canvas: the page's security policy allows no styled text from outside.
      tooltip: { renderMode: 'richText', confine: true },
    };
    const legend = { top: 0, itemHeight: 8, textStyle: { color: colors.soft, fontSize: 11 } };
    const pitches = pitchTendencies(part, song);
    const bar = (tick: number) =>
      meter.toBarBeat(tick).bar + (tick - meter.barStartAt(tick)) / meter.pieceAt(tick).barTicks;
    const swing = this.analyst.analysis()?.swing;
    const charts: { title: string; options: EChartsCoreOption }[] = [
      {
        title: 'Offsets in ms, before and after',
        options: {
          ...common,
          legend,
          xAxis: { type: 'category', data: middles, ...axis },
          yAxis: { type: 'value', ...axis },
          series: [
            {
              name: 'as played',
              type: 'bar',
              barGap: '-100%',
              data: bin(picture.chords.map((c) => c.before)),
              itemStyle: { color: colors.line },
            },
            {
              name: 'corrected',
              type: 'bar',
              data: bin(picture.chords.map((c) => c.after)),
              itemStyle: { color: colors.onLine, opacity: 0.8 },
            },
          ],
        },
      },
      {
        title: 'Drift against the lines in ms, by bar',
        options: {
          ...common,
          xAxis: barAxis,
          yAxis: { type: 'value', inverse: true, ...axis },
          series: [
            {
              type: 'line',
              showSymbol: false,
              data: driftCurve(part, song).map((p) => [bar(p.tick), p.ms]),
              lineStyle: { color: colors.action, width: 1.5 },
            },
          ],
        },
      },
      {
        title: 'Median offset of each key, in ms',
        options: {
          ...common,
          xAxis: {
            type: 'category',
            data: pitches.map((p) => (isDrums(track) ? percussionName(p.pitch) : pitchName(p.pitch))),
            ...axis,
          },
          yAxis: {
            type: 'value',
            inverse: true,
            min: (v: { min: number }) => Math.min(-10, v.min),
            max: (v: { max: number }) => Math.max(10, v.max),
            ...axis,
          },
          series: [
            {
              type: 'bar',
              data: pitches.map((p) => ({
                value: Math.round(p.median * 10) / 10,
                itemStyle: { color: p.median < -10 ? colors.early : p.median > 10 ? colors.late : colors.onLine },
              })),
            },
          ],
        },
      },
    ];
    if (swing) {
      charts.push({
        title: `Swing of each pair, in percent: ${(swing.share * 100).toFixed(1)} %`,
        options: {
          ...common,
          xAxis: barAxis,
          yAxis: { type: 'value', min: 45, max: 80, ...axis },
          series: [
            {
              type: 'scatter',
              symbolSize: 4,
              data: swing.pairs.map((p) => [bar(p.tick), p.share * 100]),
              itemStyle: { color: colors.action },
            },
          ],
        },
      });
    }
    return charts;
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
