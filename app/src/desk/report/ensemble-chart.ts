import type { EChartsCoreOption } from 'echarts/core';
import type { Asynchronies, Asynchrony } from '@early-sparrow/core/insight';
import { signed } from '../../common/format';
import type { Palette } from '../../common/theme';

/** Height of a row and width of a column of the heat map, in px. */
export const ROW = 26;
export const COLUMN = 64;
/** The strongest colour is reached at so many ms. */
const STRONGEST = 30;

/** `9.5 ms ahead of`, `12.0 ms behind`, `with`. */
export function aheadOrBehind(ms: number): string {
  if (Math.abs(ms) < 0.05) return 'together with';
  return `${Math.abs(ms).toFixed(1)} ms ${ms < 0 ? 'ahead of' : 'behind'}`;
}

/** A cell in words: `Marimba plays 9.5 ms ahead of Upright bass (10.2 to 8.7), 120 notes together, wandering alike 0.4`. */
export function cellWords(row: string, column: string, cell: Asynchrony | null): string {
  if (!cell) return `${row} and ${column} do not play together`;
  const { low, high } = cell.interval;
  const alike = cell.alike === null ? '' : `, wandering alike ${cell.alike.toFixed(2)}`;
  const between = `${signed(low)} to ${signed(high)} ms`;
  return `${row} plays ${aheadOrBehind(cell.ms)} ${column} (${between}), ${cell.pairs} times together${alike}`;
}

/** Who is ahead of whom as a heat map: the row against the column. Blue is ahead, orange behind; the number says it too. */
export function ensembleChart(names: readonly string[], cells: Asynchronies, colors: Palette): EChartsCoreOption {
  const data = cells.flatMap((row, y) =>
    row.flatMap((cell, x) => (cell ? [{ value: [x, y, Math.round(cell.ms * 10) / 10] }] : [])),
  );
  // The names stand beside it.
  const axis = {
    type: 'category',
    data: names,
    axisLabel: { show: false },
    axisLine: { show: false },
    axisTick: { show: false },
    splitArea: { show: false },
  };
  return {
    animation: false,
    grid: { left: 0, top: 0, width: names.length * COLUMN, height: names.length * ROW },
    textStyle: { fontFamily: 'Atkinson Hyperlegible Next', color: colors.soft },
    tooltip: {
      renderMode: 'richText',
      confine: true,
      formatter: ({ value: [x, y] }: { value: [number, number] }) => cellWords(names[y], names[x], cells[y][x]),
    },
    xAxis: axis,
    yAxis: { ...axis, inverse: true },
    visualMap: {
      show: false,
      min: -STRONGEST,
      max: STRONGEST,
      dimension: 2,
      inRange: { color: [colors.early, colors.raised, colors.late] },
    },
    series: [
      {
        type: 'heatmap',
        data,
        label: {
          show: true,
          fontSize: 11,
          color: colors.ink,
          backgroundColor: colors.paper,
          borderRadius: 3,
          padding: [1, 4],
          formatter: ({ value: [, , ms] }: { value: [number, number, number] }) => signed(ms),
        },
        itemStyle: { borderColor: colors.paper, borderWidth: 1 },
        emphasis: { itemStyle: { borderColor: colors.ink } },
      },
    ],
  };
}
