'use client';
import type { KindName } from '../../server/shapes';
import { formView, type FormSide } from '../forms';
import { BytesBeside, type BytesSide } from './BytesBeside';

/** One side of a comparison. */
export type Side = FormSide & BytesSide;

/** Two things of one kind side by side, in the manner of that kind. */
export function Comparison({
  kind,
  ...sides
}: {
  readonly kind: KindName;
  readonly before: Side;
  readonly after: Side;
  readonly name: string;
}) {
  const Compare = formView(kind)?.Compare;
  return Compare === undefined ? <BytesBeside {...sides} /> : <Compare {...sides} />;
}
