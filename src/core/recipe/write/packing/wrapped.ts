/** The shape around an entry's packed bytes: its fields settled, and all of it as one source. */
import { bufferSource, joinedSource, sliceSource, type ByteSource } from '../../../bytes';
import { FormatError } from '../../../faults';
import type { Scope } from '../../formula/value';
import type { RowCursor } from '../../read/table';
import type { DraftFields } from '../evaluation/draft-fields';
import type { Instances } from '../evaluation/instances';
import type { Draft } from '../model/draft';
import { Pieces } from '../rendering/pieces';
import { writeRow } from '../rendering/write-row';

export interface WrapOrder {
  readonly draft: Draft;
  readonly instances: Instances;
  readonly out: number;
  readonly packed: ByteSource;
  /** The shape as it was around the entry. */
  readonly found: RowCursor | undefined;
  readonly maxRounds: number;
  /** Gives the scope in which the fields are worked out. */
  enter(): Scope;
  /** Told how long the whole has become. */
  grows(fields: DraftFields, size: number): void;
}

/** @throws FormatError `recipe-circular` when its fields follow each other without end */
export function wrappedBytes(order: WrapOrder): { readonly fields: DraftFields; readonly bytes: ByteSource } {
  const { draft, instances, out, packed } = order;
  const shape = draft.setting.recipe.entries.wrap!;
  const fields = instances.wrapOf(out, order.found, { stretch: true, at: 0, length: packed.size });
  order.grows(fields, packed.size);
  let before: Uint8Array | undefined;
  for (let round = 0; round < order.maxRounds; round++) {
    draft.forget();
    const pieces = new Pieces(0, () => undefined);
    const scope = order.enter();
    scope.own = fields;
    scope.fields = undefined;
    scope.unsized = round === 0;
    writeRow(shape, fields, pieces, scope);
    order.grows(fields, pieces.total);
    const bytes = pieces.bytes().slice();
    const late = draft.late.answerNow(({ from, to }) => pieces.bytes().slice(from, to));
    if (!late && before !== undefined && Buffer.compare(before, bytes) === 0)
      return { fields, bytes: joined(pieces, packed) };
    before = bytes;
  }
  throw new FormatError({
    code: 'recipe-circular',
    recipe: draft.setting.recipe.id,
    line: shape.line,
    what: `the fields of ${shape.name} do not come to rest`,
    limit: `maxRounds, ${order.maxRounds}`,
  });
}

function joined(pieces: Pieces, packed: ByteSource): ByteSource {
  const parts = [...pieces.stretches()].map(({ bytes, spliced }) =>
    bytes !== undefined
      ? bufferSource(bytes.slice(), packed.name)
      : sliceSource(packed, 0, spliced!.length, packed.name),
  );
  return joinedSource(parts, packed.name);
}
