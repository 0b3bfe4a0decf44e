'use client';
import { FormatRow } from '../FormatRow';
import { isNamedAs, type TrayRowProps, type TrayView } from '../tray-view';

const FORMATS = { mp4: 'MP4', webm: 'WebM' } as const;

export const filmTray: TrayView = {
  Row,
  atFirst: { films: 'mp4' },
  order: ({ films }) => (films === null ? {} : { films }),
  goesOutAs: (entry, { films }) => (films === null || isNamedAs(entry, films) ? undefined : FORMATS[films]),
};

function Row({ chosen: { form, films }, choose }: TrayRowProps) {
  return (
    <FormatRow
      kind="film"
      title="Films"
      formats={FORMATS}
      value={form === 'open' ? films : undefined}
      onChange={(next) => choose({ form: 'open', films: next })}
    />
  );
}
