export interface Row {
  readonly what: string;
  readonly on: string;
  readonly ours: string;
  readonly tool: string;
  readonly theirs: string;
  /** Their time divided by ours. */
  readonly ratio: number;
  readonly bar: string;
}

export function table(rows: readonly Row[]): string[] {
  return [
    '| what | on | Zero Latch | against | it takes | ratio | must reach |',
    '| --- | --- | --- | --- | --- | --- | --- |',
    ...rows.map(
      (row) =>
        `| ${row.what} | ${row.on} | ${row.ours} | ${row.tool} | ${row.theirs} | ${Number.isNaN(row.ratio) ? '' : row.ratio.toFixed(2)} | ${row.bar} |`,
    ),
  ];
}

/** The median seconds of three runs, after one that does not count. */
export async function seconds(work: () => unknown, runs = 3): Promise<number> {
  const times: number[] = [];
  for (let run = 0; run <= runs; run++) {
    const from = performance.now();
    await work();
    if (run > 0) times.push((performance.now() - from) / 1000);
  }
  return times.sort((a, b) => a - b)[Math.floor(times.length / 2)]!;
}

export const say = (value: number) => `${value.toFixed(value < 1 ? 3 : 2)} s`;
