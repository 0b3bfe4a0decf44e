import type { ReactNode } from 'react';
import type { KindName } from '../../server/shapes';
import { Chip } from '../shared/Chip';
import { ChoiceRow } from '../shared/ChoiceRow';
import { KindMark } from '../shared/marks';

interface Props<Format extends string> {
  readonly kind: KindName;
  /** Such as "Pictures". */
  readonly title: string;
  /** What each is called, by its ending. */
  readonly formats: Readonly<Record<Format, string>>;
  /** Undefined where none is in force. */
  readonly value: Format | null | undefined;
  readonly onChange: (format: Format | null) => void;
  readonly children?: ReactNode;
}

/** The formats that entries of a form may go out in, or as they are. */
export function FormatRow<Format extends string>({ kind, title, formats, value, onChange, children }: Props<Format>) {
  const words = { ...formats, '': 'as they are' } as Readonly<Record<Format | '', string>>;
  return (
    <ChoiceRow
      title={
        <>
          <KindMark kind={kind} /> {title}
        </>
      }
    >
      {(Object.keys(words) as (Format | '')[]).map((one) => (
        <Chip
          key={one}
          on={value === (one === '' ? null : one)}
          onClick={() => onChange(one === '' ? null : one)}
          label={one === '' ? `${title} as they are` : `${title} as ${words[one]}`}
        >
          {words[one]}
        </Chip>
      ))}
      {children}
    </ChoiceRow>
  );
}
