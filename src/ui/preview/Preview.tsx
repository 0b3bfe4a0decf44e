'use client';
import Box from '@mui/material/Box';
import type { KindName } from '../../server/shapes';
import { formView, type ViewProps } from '../forms';
import { FaultNote } from '../shared/states';

interface Props extends Omit<ViewProps, 'large'> {
  readonly kind: KindName;
  /** Why it cannot be shown as what it is. */
  readonly trouble: string | null;
  readonly large?: boolean;
}

/** An entry as its form shows it, or a note that its form is unknown. */
export function Preview({ kind, trouble, large = false, ...props }: Props) {
  const form = formView(props.facts?.form ?? kind);
  const { mime } = props;
  if (trouble !== null) return <FaultNote tone="brass">{trouble}</FaultNote>;
  if (form !== undefined) return <form.View {...props} large={large} />;
  return (
    <Box sx={{ border: '1px dashed var(--line)', borderRadius: 1, p: 2 }} className="dim">
      No form is known for this entry{mime === 'application/octet-stream' ? '' : ` (${mime})`}. Its bytes can be looked
      at, taken out and replaced.
    </Box>
  );
}
