'use client';

import { BarChart } from 'echarts/charts';
import { GridComponent, TooltipComponent } from 'echarts/components';
import { init, use } from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';
import { useEffect, useRef } from 'react';

use([BarChart, GridComponent, TooltipComponent, CanvasRenderer]);

/** One kind of bar, with a number for each row. */
export interface BarSeries {
  name: string;
  /** A colour of the theme, such as `--color-accent`. */
  colour: string;
  values: readonly number[];
}

interface BarsProps {
  label: string;
  names: readonly string[];
  /** One beside the other in each bar. */
  series: readonly BarSeries[];
  /** What a number says of itself when the pointer is on it. */
  words(value: number, series: string): string;
  /** Numbers stand at the ends of the bars. */
  ends?: boolean;
  /** A stretch of a bar was pressed. */
  open?(index: number, series: string): void;
}

/** Bars from left to right, a name to each. */
export function Bars({ label, names, series, words, ends = false, open }: BarsProps) {
  const element = useRef<HTMLDivElement>(null);
  const latest = useRef({ words, open });
  latest.current = { words, open };
  const data = JSON.stringify({ names, series });
  useEffect(() => {
    if (!element.current) return;
    const { names: bars, series: stretches } = JSON.parse(data) as Pick<BarsProps, 'names' | 'series'>;
    const style = getComputedStyle(element.current);
    const ink = style.getPropertyValue('--soft');
    const chart = init(element.current);
    chart.setOption({
      animation: false,
      textStyle: { fontFamily: style.fontFamily },
      grid: { left: 8, right: ends ? 60 : 30, top: 4, bottom: 4, containLabel: true },
      tooltip: {
        trigger: 'item',
        formatter: ({ name, seriesName, value }: { name: string; seriesName: string; value: number }) =>
          `${name}: ${latest.current.words(value, seriesName)}`,
      },
      xAxis: { type: 'value', show: false },
      yAxis: {
        type: 'category',
        inverse: true,
        data: bars,
        axisLabel: { color: ink, fontSize: 11, width: 160, overflow: 'truncate' },
        axisTick: { show: false },
        axisLine: { show: false },
      },
      series: stretches.map(({ name, colour, values }) => ({
        name,
        type: 'bar',
        stack: 'all',
        barMaxWidth: 14,
        itemStyle: { color: style.getPropertyValue(colour), borderRadius: stretches.length === 1 ? 3 : 0 },
        label: {
          show: ends,
          position: 'right',
          color: ink,
          fontSize: 11,
          formatter: ({ value }: { value: number }) => latest.current.words(value, name),
        },
        data: values,
      })),
    });
    chart.on('click', ({ dataIndex, seriesName }) => latest.current.open?.(dataIndex, seriesName ?? ''));
    const fit = new ResizeObserver(() => chart.resize());
    fit.observe(element.current);
    return () => {
      fit.disconnect();
      chart.dispose();
    };
  }, [data, ends]);
  return <div ref={element} style={{ height: 20 + names.length * 24 }} role="img" aria-label={label} />;
}
