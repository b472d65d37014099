import type { EChartsCoreOption } from 'echarts/core';
import { driftCurve, ON_LINE_MS, pitchTendencies, type Swing } from '@early-sparrow/core/insight';
import { isDrums, percussionName } from '@early-sparrow/core/sound';
import { meterOf, type Part, type Song, type Track } from '@early-sparrow/core/song';
import { pitchName, withMinus } from '../../common/format';
import type { Palette } from '../../common/theme';
import { binMs, binOffsets, laneReach } from '../picture/draw-lane';
import { pictureOf } from '../hand/picture';

export interface Chart {
  readonly title: string;
  readonly options: EChartsCoreOption;
}

/** The charts of the report: offsets before and after, drift, offsets by key, and swing where there is some. */
export function reportCharts(part: Part, song: Song, track: Track, swing: Swing | null, colors: Palette): Chart[] {
  const look = lookOf(colors);
  const charts = [
    offsets(part, song, colors, look),
    drift(part, song, colors, look),
    keys(part, song, track, colors, look),
  ];
  return swing ? [...charts, swings(song, swing, colors, look)] : charts;
}

type Look = ReturnType<typeof lookOf>;

function lookOf(colors: Palette) {
  const axis = {
    axisLabel: { color: colors.soft, fontSize: 11 },
    axisLine: { lineStyle: { color: colors.line } },
    splitLine: { lineStyle: { color: colors.line } },
  };
  return {
    axis,
    /** The axis of bars: whole numbers only. */
    bars: {
      type: 'value',
      min: (v: { min: number }) => Math.floor(v.min),
      max: (v: { max: number }) => Math.ceil(v.max),
      minInterval: 1,
      ...axis,
      // Bars of a long take have five digits.
      axisLabel: { ...axis.axisLabel, hideOverlap: true },
      splitLine: { show: false },
    },
    common: {
      animation: false,
      grid: { left: 36, right: 8, top: 26, bottom: 22 },
      textStyle: { fontFamily: 'Atkinson Hyperlegible Next', color: colors.soft },
      // Drawn on the canvas: the page's security policy allows no styled text from outside.
      tooltip: { renderMode: 'richText', confine: true, valueFormatter: withMinus },
    },
  };
}

/** An axis of ms around 0 with round ends, early above; the line at 0 is always seen. */
function msAxis(look: Look, colors: Palette, largest: number) {
  const end = [10, 20, 30, 40, 60, 80, 120, 200, 400].find((ms) => ms >= largest) ?? Math.ceil(largest / 100) * 100;
  return {
    type: 'value',
    inverse: true,
    min: -end,
    max: end,
    interval: end / 2,
    ...look.axis,
    axisLabel: { ...look.axis.axisLabel, formatter: withMinus },
    nameTextStyle: { color: colors.soft },
  };
}

/** The zero line, in the colour of what is on its line. */
const zero = (colors: Palette) => ({ onZero: true, lineStyle: { color: colors.onLine, width: 1.5 } });

function offsets(part: Part, song: Song, colors: Palette, look: Look): Chart {
  const picture = pictureOf(part, song);
  const reach = laneReach(picture);
  const width = binMs(reach);
  const before = binOffsets(picture.chords.before, reach);
  const after = binOffsets(picture.chords.after, reach);
  // Round numbers only, 0 among them.
  const isRound = (_: number, ms: string) => Number(ms) % (reach / 2) === 0;
  const middles = before.map((_, i) => (i - (before.length - 1) / 2) * width);
  return {
    title: `Offsets in ms, before and after, by ${width} ms`,
    options: {
      ...look.common,
      legend: { top: 0, itemHeight: 8, textStyle: { color: colors.soft, fontSize: 11 } },
      xAxis: {
        type: 'category',
        data: middles,
        ...look.axis,
        axisLabel: { ...look.axis.axisLabel, interval: isRound, formatter: withMinus },
        axisTick: { alignWithLabel: true, interval: isRound },
      },
      yAxis: { type: 'value', minInterval: 1, ...look.axis },
      series: [
        { name: 'as played', type: 'bar', barGap: '-100%', data: before, itemStyle: { color: colors.line } },
        { name: 'corrected', type: 'bar', data: after, itemStyle: { color: colors.onLine, opacity: 0.8 } },
      ],
    },
  };
}

/** A place as its bar, with the part of the bar behind the point. */
function barOf(song: Song): (tick: number) => number {
  const meter = meterOf(song);
  return (tick) => {
    const start = meter.barStartAt(tick);
    return meter.toBarBeat(start).bar + (tick - start) / meter.pieceAt(tick).barTicks;
  };
}

function drift(part: Part, song: Song, colors: Palette, look: Look): Chart {
  const bar = barOf(song);
  const curve = driftCurve(part, song);
  const largest = curve.reduce((most, p) => Math.max(most, Math.abs(p.lower), Math.abs(p.upper)), 0);
  const band = { type: 'line', showSymbol: false, smooth: true, stack: 'band', stackStrategy: 'all', silent: true };
  return {
    title: 'Drift against the lines in ms, by bar; half of the chords lie in the band',
    options: {
      ...look.common,
      xAxis: { ...look.bars, axisLine: zero(colors) },
      yAxis: msAxis(look, colors, largest),
      series: [
        { ...band, data: curve.map((p) => [bar(p.tick), p.lower]), lineStyle: { opacity: 0 } },
        {
          ...band,
          data: curve.map((p) => [bar(p.tick), p.upper - p.lower]),
          lineStyle: { opacity: 0 },
          areaStyle: { color: colors.action, opacity: 0.16 },
        },
        {
          type: 'line',
          showSymbol: false,
          smooth: true,
          data: curve.map((p) => [bar(p.tick), p.ms]),
          lineStyle: { color: colors.action, width: 1.5 },
        },
      ],
    },
  };
}

function keys(part: Part, song: Song, track: Track, colors: Palette, look: Look): Chart {
  const pitches = pitchTendencies(part, song);
  const largest = pitches.reduce((most, p) => Math.max(most, Math.abs(p.lower), Math.abs(p.upper)), 0);
  const color = (ms: number) => (ms < -ON_LINE_MS ? colors.early : ms > ON_LINE_MS ? colors.late : colors.onLine);
  const range = { type: 'bar', stack: 'range', stackStrategy: 'all', barWidth: 3, silent: true };
  return {
    title: 'Offset of each key in ms: median, and the middle half of its notes',
    options: {
      ...look.common,
      xAxis: {
        type: 'category',
        data: pitches.map((p) => (isDrums(track) ? percussionName(p.pitch) : pitchName(p.pitch))),
        ...look.axis,
        axisLine: zero(colors),
        // Each key that there is room for.
        axisLabel: { ...look.axis.axisLabel, margin: 8, interval: 0, hideOverlap: true },
      },
      yAxis: msAxis(look, colors, largest),
      series: [
        { ...range, data: pitches.map((p) => p.lower), itemStyle: { color: 'transparent' } },
        {
          ...range,
          data: pitches.map((p) => ({
            value: p.upper - p.lower,
            itemStyle: { color: color(p.median), opacity: 0.45 },
          })),
        },
        {
          type: 'scatter',
          symbolSize: 7,
          data: pitches.map((p) => ({ value: Math.round(p.median * 10) / 10, itemStyle: { color: color(p.median) } })),
        },
      ],
    },
  };
}

function swings(song: Song, swing: Swing, colors: Palette, look: Look): Chart {
  const bar = barOf(song);
  return {
    title: `Swing of each pair, in percent: ${(swing.share * 100).toFixed(1)} %`,
    options: {
      ...look.common,
      xAxis: look.bars,
      yAxis: { type: 'value', min: 40, max: 80, interval: 10, ...look.axis },
      series: [
        {
          type: 'scatter',
          symbolSize: 4,
          // A long take has a hundred thousand pairs: drawn in one go, without an object for each.
          large: true,
          data: Array.from(swing.pairs.tick, (tick, i) => [bar(tick), Math.round(swing.pairs.share[i] * 1000) / 10]),
          itemStyle: { color: colors.action },
        },
      ],
    },
  };
}
