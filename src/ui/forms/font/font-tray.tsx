'use client';
import { FormatRow } from '../FormatRow';
import { isNamedAs, type TrayRowProps, type TrayView } from '../tray-view';

const FORMATS = { ttf: 'TTF', woff: 'WOFF', woff2: 'WOFF2' } as const;

export const fontTray: TrayView = {
  Row,
  atFirst: { fonts: null },
  order: ({ fonts }) => (fonts === null ? {} : { fonts }),
  goesOutAs: (entry, { fonts }) => (fonts === null || isNamedAs(entry, fonts) ? undefined : FORMATS[fonts]),
};

function Row({ chosen: { form, fonts }, choose }: TrayRowProps) {
  return (
    <FormatRow
      kind="font"
      title="Fonts"
      formats={FORMATS}
      value={form === 'open' ? fonts : undefined}
      onChange={(next) => choose({ form: 'open', fonts: next })}
    />
  );
}
