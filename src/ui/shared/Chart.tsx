'use client';
import Box from '@mui/material/Box';
import { useColorScheme } from '@mui/material/styles';
import { BarChart, GraphChart, TreemapChart } from 'echarts/charts';
import { AriaComponent, GridComponent, TooltipComponent } from 'echarts/components';
import { init, use as draws, type ECharts, type EChartsCoreOption } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { useEffect, useRef } from 'react';

draws([AriaComponent, BarChart, GraphChart, GridComponent, SVGRenderer, TooltipComponent, TreemapChart]);

/** A colour of the theme that is on, for a chart: these know no CSS variables. */
export type ColourOf = (name: string) => string;

interface Props {
  readonly label: string;
  readonly height: number;
  readonly option: (colour: ColourOf) => EChartsCoreOption;
  /** The `data` of what was clicked. */
  readonly onPick?: (data: unknown) => void;
}

/** A chart in the colours of the theme. What it says is next to it as text: it is a picture to those who cannot see it. */
export function Chart({ label, height, option, onPick }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<ECharts>(undefined);
  const { mode, systemMode } = useColorScheme();
  useEffect(() => {
    const made = init(box.current!, null, { renderer: 'svg' });
    chart.current = made;
    const observer = new ResizeObserver(() => made.resize());
    observer.observe(box.current!);
    return () => {
      observer.disconnect();
      made.dispose();
    };
  }, []);
  useEffect(() => {
    const style = getComputedStyle(document.documentElement);
    const still = matchMedia('(prefers-reduced-motion: reduce)').matches;
    const text = {
      color: style.getPropertyValue('--ink').trim(),
      fontFamily: getComputedStyle(document.body).fontFamily,
    };
    chart.current!.setOption(
      { animation: !still, textStyle: text, ...option((name) => style.getPropertyValue(`--${name}`).trim()) },
      { notMerge: true },
    );
  }, [option, mode, systemMode]);
  useEffect(() => {
    const made = chart.current!;
    const pick = (event: { data?: unknown }) => onPick?.(event.data);
    made.on('click', pick as never);
    return () => {
      if (!made.isDisposed()) made.off('click', pick as never);
    };
  }, [onPick]);
  return <Box ref={box} role="img" aria-label={label} sx={{ width: '100%', height }} />;
}
