'use client';
import type { RefObject } from 'react';

interface Props {
  /** Its `click` opens the browser's own dialog. */
  readonly pickRef: RefObject<HTMLInputElement | null>;
  readonly label: string;
  readonly testId: string;
  readonly accept?: string;
  readonly onPick: (file: File) => void;
}

/** An unseen field for one file; the same file may be chosen twice. */
export function FilePick({ pickRef, label, testId, accept, onPick }: Props) {
  return (
    <input
      ref={pickRef}
      type="file"
      hidden
      accept={accept}
      aria-label={label}
      data-testid={testId}
      onChange={(event) => {
        const [file] = event.target.files ?? [];
        if (file !== undefined) onPick(file);
        event.target.value = '';
      }}
    />
  );
}
