import type { ReactNode } from 'react';

/** One row of a list of terms and descriptions. */
export function Fact({ name, children }: { readonly name: string; readonly children: ReactNode }) {
  return (
    <>
      <dt>{name}</dt>
      <dd>{children}</dd>
    </>
  );
}
