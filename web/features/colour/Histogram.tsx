'use client';

import { HISTOGRAM_BINS, type PixelFacts } from '@kinkajou/core/maps/pixelFacts';
import { BarChart } from 'echarts/charts';
import { GridComponent, MarkAreaComponent, MarkLineComponent, TooltipComponent } from 'echarts/components';
import { init, use } from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';
import { useEffect, useRef } from 'react';

use([BarChart, GridComponent, MarkAreaComponent, MarkLineComponent, TooltipComponent, CanvasRenderer]);

interface HistogramProps {
  facts: PixelFacts;
  /** The band of plausible albedo in the image's stored numbers, or null where it says nothing. */
  band: readonly [number, number] | null;
}

/** Brightness of the stored numbers, with the band in which albedo lies. */
export function Histogram({ facts, band }: HistogramProps) {
  const element = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!element.current) return;
    const style = getComputedStyle(element.current);
    const ink = style.getPropertyValue('--soft') || '#666';
    const chart = init(element.current);
    const most = Math.max(...facts.histogram);
    chart.setOption({
      animation: false,
      grid: { left: 8, right: 10, top: 6, bottom: 18 },
      tooltip: {
        trigger: 'axis',
        formatter: ([{ dataIndex, value }]: { dataIndex: number; value: number[] }[]) =>
          `${(dataIndex / HISTOGRAM_BINS).toFixed(2)} to ${((dataIndex + 1) / HISTOGRAM_BINS).toFixed(2)}: ${(value[1] * 100).toFixed(1)}%`,
      },
      xAxis: {
        type: 'value',
        min: 0,
        max: 1,
        interval: 0.25,
        axisLabel: { color: ink, fontSize: 10 },
        splitLine: { show: false },
      },
      yAxis: { type: 'value', max: most * 1.05, show: false },
      series: [
        {
          type: 'bar',
          barWidth: '98%',
          barCategoryGap: 0,
          itemStyle: { color: style.getPropertyValue('--color-secondary') || '#34708a' },
          data: facts.histogram.map((share, i) => [(i + 0.5) / HISTOGRAM_BINS, share]),
          markArea: band
            ? {
                silent: true,
                itemStyle: { color: 'rgba(216, 148, 42, 0.2)' },
                data: [[{ xAxis: Math.max(0, band[0]) }, { xAxis: Math.min(1, band[1]) }]],
              }
            : undefined,
        },
      ],
    });
    const resized = new ResizeObserver(() => chart.resize());
    resized.observe(element.current);
    return () => {
      resized.disconnect();
      chart.dispose();
    };
  }, [facts, band]);
  return (
    <div
      ref={element}
      className="h-[104px] w-full"
      role="img"
      aria-label={`Histogram of brightness; half of the pixels are below ${facts.percentiles[3].toFixed(3)}`}
    />
  );
}
