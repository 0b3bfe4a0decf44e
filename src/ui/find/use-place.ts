'use client';
import { usePathname, useSearchParams } from 'next/navigation';
import { useCallback, useEffect, useState } from 'react';

export const VIEWS = ['sheet', 'list', 'overview'] as const;
export type View = (typeof VIEWS)[number];
export type Sort = 'path' | 'size' | 'kind' | 'archive';

/** Where one is in Find, as the address has it: back, reload and a shared link work. */
export interface Place {
  readonly search: string;
  readonly folder: string;
  readonly archive: number | undefined;
  readonly view: View;
  readonly sort: Sort;
  readonly order: 'up' | 'down';
  /** The search inside entries whose places are shown in place of the list. */
  readonly inside: number | undefined;
  readonly selected: { readonly archive: number; readonly n: number } | undefined;
}

/** The part of a place that says what is listed, for the server. */
export function listQuery({ search, folder, archive, sort, order }: Place) {
  return { search, folder, sort, order, ...(archive === undefined ? {} : { archive }) };
}

type Selected = Place['selected'];
const keyOf = (selected: Selected) => (selected === undefined ? '' : `${selected.archive}.${selected.n}`);

/**
 * What is selected, at once: the address says so a moment later, and by then the next key may have been pressed. An address
 * that came from elsewhere, such as a link or the way back, is what holds.
 */
function useSelected(inAddress: string): [Selected, (next: Selected) => void] {
  const [own, setOwn] = useState<{ selected: Selected; keys: readonly string[] }>();
  useEffect(() => {
    const forget = () => setOwn(undefined);
    window.addEventListener('popstate', forget);
    return () => window.removeEventListener('popstate', forget);
  }, []);
  const match = /^(\d+)\.(\d+)$/.exec(inAddress);
  const addressed = match === null ? undefined : { archive: Number(match[1]), n: Number(match[2]) };
  const select = useCallback(
    (selected: Selected) =>
      setOwn((before) => ({ selected, keys: [...(before?.keys ?? [inAddress]).slice(-40), keyOf(selected)] })),
    [inAddress],
  );
  return [own?.keys.includes(inAddress) === true ? own.selected : addressed, select];
}

export function usePlace(): [Place, (next: Partial<Place>) => void] {
  const params = useSearchParams();
  const pathname = usePathname();
  const archive = Number(params.get('archive') ?? NaN);
  const inside = Number(params.get('inside') ?? NaN);
  const [selected, select] = useSelected(params.get('sel') ?? '');
  const place: Place = {
    search: params.get('search') ?? '',
    folder: params.get('folder') ?? '',
    archive: Number.isNaN(archive) ? undefined : archive,
    view: VIEWS.find((view) => view === params.get('view')) ?? 'sheet',
    sort: (['size', 'kind', 'archive'] as const).find((sort) => sort === params.get('sort')) ?? 'path',
    order: params.get('order') === 'down' ? 'down' : 'up',
    inside: Number.isNaN(inside) ? undefined : inside,
    selected,
  };
  const go = useCallback(
    (next: Partial<Place>) => {
      // The address itself, and not what the page last heard of it: of two steps in one moment none is lost.
      const wanted = new URLSearchParams(window.location.search);
      const put = (key: string, value: string | undefined) =>
        value === undefined || value === '' ? wanted.delete(key) : wanted.set(key, value);
      if ('search' in next) put('search', next.search);
      if ('folder' in next) put('folder', next.folder);
      if ('archive' in next) put('archive', next.archive === undefined ? undefined : String(next.archive));
      if ('view' in next) put('view', next.view === 'sheet' ? undefined : next.view);
      if ('sort' in next) put('sort', next.sort === 'path' ? undefined : next.sort);
      if ('order' in next) put('order', next.order === 'down' ? 'down' : undefined);
      if ('inside' in next) put('inside', next.inside === undefined ? undefined : String(next.inside));
      if ('selected' in next) {
        select(next.selected);
        put('sel', keyOf(next.selected));
      }
      const address = `${pathname}?${wanted.toString()}`;
      // Walking through entries is not a trail anyone wants to walk back.
      if ('folder' in next || 'archive' in next || 'view' in next || 'inside' in next)
        // The page stays: nothing of it has to come from the server again.
        window.history.pushState(null, '', address);
      else window.history.replaceState(null, '', address);
    },
    [pathname, select],
  );
  return [place, go];
}
