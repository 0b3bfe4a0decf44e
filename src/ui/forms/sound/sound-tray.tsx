'use client';
import { Chip } from '../../shared/Chip';
import { FormatRow } from '../FormatRow';
import { isNamedAs, type TrayRowProps, type TrayView } from '../tray-view';

const FORMATS = { wav: 'WAV', flac: 'FLAC', ogg: 'OGG' } as const;

export const soundTray: TrayView = {
  Row,
  atFirst: { sounds: 'wav', trim: false, join: false },
  order: ({ sounds, join, trim }) => ({ join, trim: sounds !== null && trim, ...(sounds && { sounds }) }),
  goesOutAs(entry, { sounds, join }) {
    if (join) return 'in one file';
    return sounds === null || isNamedAs(entry, sounds) ? undefined : FORMATS[sounds];
  },
};

function Row({ chosen: { form, sounds, join, trim }, choose }: TrayRowProps) {
  const isOpen = form === 'open';
  return (
    <FormatRow
      kind="sound"
      title="Sounds"
      formats={FORMATS}
      value={isOpen && !join ? sounds : undefined}
      onChange={(next) => choose({ form: 'open', sounds: next, join: false })}
    >
      <Chip on={isOpen && join} onClick={() => choose({ form: 'open', join: !join, sounds: sounds ?? 'wav' })}>
        all in one, with a cue sheet
      </Chip>
      {isOpen && sounds !== null && (
        <Chip on={trim} onClick={() => choose({ trim: !trim })}>
          without silence at the ends
        </Chip>
      )}
    </FormatRow>
  );
}
