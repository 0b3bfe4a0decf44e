'use client';
import type { RecordLine, RecordTable } from '../../server/shapes';
import { fileName } from '../shared/format';

/** What distinguishes one file of a table from the others: the numbers in its path, or its name. */
export function shortOf({ path }: RecordLine, { name }: RecordTable): string {
  if (!name.includes('*')) return fileName(path);
  const folders = path.split('/');
  const marked = name.split('#')[0]!.split('/');
  return folders.filter((_, i) => marked[i]?.includes('*') === true).join('/') || fileName(path);
}

export function summaryOf({ kind, low, high, empty }: RecordTable['columns'][number]): string {
  const words = {
    whole: 'whole number',
    number: 'number',
    text: 'text',
    'yes-no': 'yes or no',
    list: 'list',
    mixed: 'mixed',
  };
  const range = low === null || high === null ? '' : `, ${low.toLocaleString('en')} to ${high.toLocaleString('en')}`;
  return `${words[kind]}${range}${empty > 0 ? `, ${empty.toLocaleString('en')} without` : ''}`;
}
