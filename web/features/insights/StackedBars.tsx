'use client';

import { BarChart } from 'echarts/charts';
import { GridComponent, TooltipComponent } from 'echarts/components';
import { init, use } from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';
import { useEffect, useRef } from 'react';
import type { InsightRow } from '@/server/services/insights';

use([BarChart, GridComponent, TooltipComponent, CanvasRenderer]);

/** Bars that are listed; what comes after them is in the CSV. */
const MOST = 12;

export type Stretch = 'mended' | 'left';

interface StackedBarsProps {
  rows: readonly InsightRow[];
  label: string;
  /** Opens what stands behind a stretch of a bar. */
  open?(row: InsightRow, stretch: Stretch): void;
}

/** What was mended and what is left, a bar a row. */
export function StackedBars({ rows, label, open }: StackedBarsProps) {
  const element = useRef<HTMLDivElement>(null);
  const latest = useRef(open);
  latest.current = open;
  const shown = rows.slice(0, MOST);
  const key = JSON.stringify(shown);
  useEffect(() => {
    if (!element.current) return;
    const own = JSON.parse(key) as InsightRow[];
    const style = getComputedStyle(element.current);
    const ink = style.getPropertyValue('--soft') || '#666';
    const series = (stretch: Stretch, colour: string, values: number[]) => ({
      name: stretch,
      type: 'bar' as const,
      stack: 'all',
      barMaxWidth: 14,
      itemStyle: { color: colour },
      data: values,
    });
    const chart = init(element.current);
    chart.setOption({
      animation: false,
      textStyle: { fontFamily: style.fontFamily },
      grid: { left: 8, right: 30, top: 4, bottom: 4, containLabel: true },
      tooltip: {
        trigger: 'item',
        formatter: ({ name, seriesName, value }: { name: string; seriesName: string; value: number }) => `${name}: ${value} ${seriesName}`,
      },
      xAxis: { type: 'value', show: false },
      yAxis: {
        type: 'category',
        inverse: true,
        data: own.map(({ title }) => title || 'not said'),
        axisLabel: { color: ink, fontSize: 11, width: 170, overflow: 'truncate' },
        axisTick: { show: false },
        axisLine: { show: false },
      },
      series: [
        series(
          'mended',
          style.getPropertyValue('--color-success') || '#3d8657',
          own.map(({ found, left }) => found - left),
        ),
        series(
          'left',
          style.getPropertyValue('--color-accent') || '#d9942b',
          own.map(({ left }) => left),
        ),
      ],
    });
    chart.on('click', ({ dataIndex, seriesName }) => latest.current?.(own[dataIndex], seriesName as Stretch));
    const fit = new ResizeObserver(() => chart.resize());
    fit.observe(element.current);
    return () => {
      fit.disconnect();
      chart.dispose();
    };
  }, [key]);
  return <div ref={element} style={{ height: 20 + shown.length * 24 }} role="img" aria-label={`Bars: ${label}`} />;
}
