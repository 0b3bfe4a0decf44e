'use client';
import { useSearchParams } from 'next/navigation';
import type { RecordPlace } from './record-place';

export function useRecordPlace(): [RecordPlace, (next: Partial<RecordPlace>) => void] {
  const params = useSearchParams();
  const table = Number(params.get('table') ?? NaN);
  const place: RecordPlace = {
    table: Number.isNaN(table) ? undefined : table,
    search: params.get('search') ?? '',
    column: params.get('column') ?? undefined,
    value: params.get('value') ?? undefined,
    dangling: params.get('dangling') === 'true',
    where: params.get('where') ?? '',
  };
  const go = (next: Partial<RecordPlace>) => {
    const wanted = Object.entries({ ...place, ...next }).flatMap(([key, value]) =>
      value === undefined || value === '' || value === false ? [] : [[key, String(value)] as [string, string]],
    );
    window.history.pushState(null, '', `?${new URLSearchParams(wanted).toString()}`);
  };
  return [place, go];
}
