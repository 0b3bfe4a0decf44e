/** A field behind steps of its own: a scrambled name, a locked table within a row. */
import { createHash } from 'node:crypto';
import { ByteWriter, Cursor } from '../../bytes';
import { FaultError, FormatError } from '../../faults';
import type { FieldKind, RegionWriter, Step } from '../model';
import { decodeWhole, encodeWhole, isPacking, prepareChain, type Chain } from '../read/through';

/**
 * The kind of a field whose stored bytes become those of `inner` by some steps.
 *
 * @param isConfined the field has a size, and its stored bytes fill it; otherwise they are as many as the plain ones
 */
export function sealedKind(inner: FieldKind, steps: readonly Step[], isConfined: boolean): FieldKind {
  return {
    text: `${inner.text} behind ${steps.map(({ text }) => text).join(', ')}`,
    fixedSize: isConfined ? undefined : inner.fixedSize,
    minSize: isConfined ? 0 : inner.minSize,
    type: inner.type,
    flows: false,
    ...(inner.names === undefined ? {} : { names: inner.names }),
    ...(inner.shapes === undefined ? {} : { shapes: inner.shapes }),
    needs: [...(inner.needs ?? []), ...steps.flatMap(regionsOf)],
    ...(inner.poolOf === undefined ? {} : { poolOf: inner.poolOf.bind(inner) }),
    makeColumn: (tables) => inner.makeColumn(tables),
    read: (cursor, column, row, context) => {
      if (inner.flows) throw entriesInside(inner);
      const { scope, limits } = context;
      const size = isConfined ? cursor.left : inner.fixedSize!;
      const { offset } = cursor;
      const start = cursor.advance(size);
      const chain = prepareChain(steps, {
        scope,
        choose: true,
        plainSize: inner.fixedSize,
        maxPlainBytes: limits.maxRegionBytes,
        maxStretchBytes: limits.maxStretchBytes,
      });
      const stored = cursor.bytes.subarray(start, start + size);
      let plain: Cursor;
      try {
        plain = new Cursor(decodeWhole(stored, chain), offset);
      } catch (error) {
        throw error instanceof FaultError ? error.with({ offset }) : error;
      }
      if (isPacking(chain)) scope.file.packedFields.set(keyOf(chain, plain.bytes), stored.slice());
      inner.read(plain, column, row, { ...context, beyond: 0 });
      if (plain.left === 0) return;
      throw new FormatError({
        code: 'must-differs',
        what: 'the bytes behind the steps of a field are more than its kind takes',
        offset,
        expected: `${plain.position.toLocaleString('en')} bytes`,
        found: `${plain.bytes.length.toLocaleString('en')}`,
      });
    },
    write: (writer, value, scope) => {
      const plain = new PlainBytes(writer.position);
      inner.write(plain, value, scope);
      const chain = prepareChain(steps, { scope, choose: true, maxPlainBytes: Infinity });
      const bytes = plain.bytes().slice();
      const found = isPacking(chain) ? scope.file.packedFields.get(keyOf(chain, bytes)) : undefined;
      writer.put(found ?? encodeWhole(bytes, chain));
    },
  };
}

/** Under which a field that holds these bytes behind these steps is found again. */
function keyOf({ steps }: Chain, plain: Uint8Array): string {
  const hash = createHash('sha256');
  for (const { step, context } of steps) {
    hash.update(`${step.text}\0`);
    for (const value of Object.values(context.params)) hash.update(value instanceof Uint8Array ? value : `${value}\0`);
  }
  return hash.update(plain).digest('base64');
}

/** Regions that the parameters and conditions of a step look at. */
function regionsOf({ when, params }: Step): number[] {
  return [when, ...Object.values(params)].flatMap((formula) => [...(formula?.uses.regions ?? [])]);
}

function entriesInside({ text }: FieldKind): FormatError {
  return new FormatError({
    code: 'recipe-invalid',
    what: `${text} holds the bytes of entries or fields with at:, which cannot lie behind the steps of a field`,
    hint: 'Put what is locked into a region with through.',
  });
}

/** Bytes that are not those of the file yet, so that nothing can be named in them or lie apart. */
class PlainBytes extends ByteWriter implements RegionWriter {
  constructor(private readonly base: number) {
    super();
  }
  get position(): number {
    return this.base + this.length;
  }
  splice(): never {
    throw this.impossible('the bytes of an entry');
  }
  apart(): never {
    throw this.impossible('a field with at:');
  }
  private impossible(what: string): FormatError {
    return new FormatError({
      code: 'layout-impossible',
      what: `${what} cannot lie behind the steps of a field`,
      hint: 'Put what is locked into a region with through.',
    });
  }
}
