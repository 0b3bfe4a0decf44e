'use client';
import { useCallback } from 'react';
import type { WordsAnswer } from '../../server/shapes';
import { Chart, type ColourOf } from '../shared/Chart';

const ROW = 24;

/** How much is done and left, by what keys begin with; a click shows those texts. */
export function WordGroups({ groups, onPick }: { groups: WordsAnswer['groups']; onPick: (group: string) => void }) {
  const option = useCallback(
    (colour: ColourOf) => {
      const names = groups.map(({ name }) => name ?? 'all others');
      const bars = (of: 'done' | 'left', fill: string) => ({
        name: of,
        type: 'bar',
        stack: 'all',
        barMaxWidth: 14,
        itemStyle: { color: fill },
        data: groups.map((group) => ({ value: group[of], name: group.name })),
      });
      return {
        grid: { left: 8, right: 24, top: 4, bottom: 4, containLabel: true },
        tooltip: { trigger: 'axis', axisPointer: { type: 'shadow' } },
        xAxis: { type: 'value', show: false },
        yAxis: {
          type: 'category',
          data: names,
          inverse: true,
          axisTick: { show: false },
          axisLine: { show: false },
          axisLabel: { color: colour('ink') },
        },
        series: [bars('done', colour('teal')), bars('left', colour('line'))],
      };
    },
    [groups],
  );
  const pick = useCallback(
    (data: unknown) => {
      const { name } = (data ?? {}) as { name?: string | null };
      if (typeof name === 'string') onPick(name);
    },
    [onPick],
  );
  const label = groups.map(({ name, done, left }) => `${name ?? 'all others'}: ${done} done, ${left} left`).join('; ');
  return <Chart label={label} height={groups.length * ROW + 8} option={option} onPick={pick} />;
}
