/** Running `through` chains, forwards and backwards. */
import type { ByteSource } from '../../bytes';
import { readChunks } from '../../bytes';
import type { CodecContext, ParamValue } from '../../codecs';
import { FaultError, FormatError, LimitError } from '../../faults';
import type { Step } from '../model';
import { DEFAULT_LIMITS } from '../limits';
import { sameValue, truthy, type Scope, type Value } from '../formula/value';
import { showValue } from '../formula/show-value';

/** Stretches up to this many bytes are unpacked whole, which is faster; longer ones flow piece by piece. */
const WHOLE_BYTES = 8 << 20;
/** Plain bytes that are unpacked whole. */
const WHOLE_PLAIN_BYTES = WHOLE_BYTES * 4;
/** Plain bytes for each stored byte that never count as too many, beyond which `maxStretchBytes` holds. */
const SANE_RATIO = 16;

export interface ChainOptions {
  readonly scope: Scope;
  /** Leave out steps whose `when` does not hold; the chain of an entry has been chosen by its method already. */
  readonly choose?: boolean;
  /** Plain bytes at the end of the chain, where known. */
  readonly plainSize?: number | undefined;
  readonly maxPlainBytes: number;
  /** Plain bytes that a step which cannot work piece by piece may make of a short stretch. */
  readonly maxStretchBytes?: number;
}

/** A chain with its parameters worked out for one stretch; holds no reference to the scope. */
export interface Chain {
  readonly steps: readonly { readonly step: Step; readonly context: CodecContext }[];
  readonly plainSize: number | undefined;
  readonly maxStretchBytes: number;
}

/**
 * Works out the parameters of a chain.
 *
 * @throws FaultError `key-missing` when a slot has no key
 */
export function prepareChain(steps: readonly Step[], options: ChainOptions): Chain {
  const taken =
    options.choose === true
      ? steps.filter(({ when }) => when === undefined || truthy(when.evaluate(options.scope)))
      : steps;
  return {
    plainSize: options.plainSize,
    maxStretchBytes: options.maxStretchBytes ?? DEFAULT_LIMITS.maxStretchBytes,
    steps: taken.map((step, i) => {
      const params: Record<string, ParamValue> = {};
      for (const spec of step.codec.params) {
        const value = step.params[spec.name]?.evaluate(options.scope) ?? spec.otherwise;
        if (spec.length !== undefined && !(value instanceof Uint8Array && value.length === spec.length)) {
          throw new FormatError({
            code: 'codec-failed',
            line: step.line,
            what: `${step.codec.name} cannot use this ${spec.name}`,
            expected: `${spec.length} bytes`,
            found: value instanceof Uint8Array ? `${value.length} bytes` : showValue(value),
          });
        }
        params[spec.name] = value as ParamValue;
      }
      const last = i === taken.length - 1;
      const plain = last && options.plainSize !== undefined ? { plainSize: options.plainSize } : {};
      return { step, context: { params, maxPlainBytes: options.maxPlainBytes, ...plain } };
    }),
  };
}

/** True when the same plain bytes may be stored in more than one way. */
export function isPacking({ steps }: Chain): boolean {
  return steps.some(({ step }) => step.codec.family !== 'cipher');
}

/** True when both take the same steps with the same parameters. */
export function sameChain(a: Chain, b: Chain): boolean {
  return (
    a.steps.length === b.steps.length &&
    a.steps.every(
      ({ step, context }, i) =>
        step === b.steps[i]!.step &&
        Object.entries(context.params).every(([name, value]) =>
          sameValue(value as Value, b.steps[i]!.context.params[name] as Value),
        ),
    )
  );
}

/**
 * The plain bytes of a stretch that is in memory.
 *
 * @throws LimitError when a step would take more memory than so small a stretch should
 */
export function decodeWhole(stored: Uint8Array, chain: Chain): Uint8Array {
  const most = Math.max(chain.maxStretchBytes, stored.length * SANE_RATIO);
  try {
    return decodeWithin(stored, chain, most);
  } catch (error) {
    if (!(error instanceof LimitError) || chain.steps.some(({ context }) => context.maxPlainBytes <= most)) throw error;
    throw new LimitError({
      ...error.fault,
      limit: `maxStretchBytes, ${chain.maxStretchBytes.toLocaleString('en')}`,
    });
  }
}

function decodeWithin(stored: Uint8Array, chain: Chain, most: number): Uint8Array {
  let bytes = stored;
  for (const { step, context } of chain.steps) {
    const maxPlainBytes = Math.min(context.maxPlainBytes, most);
    bytes = inStep(step, () => step.codec.decode(bytes, { ...context, maxPlainBytes }));
  }
  return bytes;
}

/** The exact inverse of {@link decodeWhole}. */
export function encodeWhole(plain: Uint8Array, chain: Chain): Uint8Array {
  let bytes = plain;
  for (const { step, context } of [...chain.steps].reverse())
    bytes = inStep(step, () => step.codec.encode(bytes, context));
  return bytes;
}

/** The plain bytes of a stretch, piece by piece; small stretches come in one piece. */
export async function* decodeChunks(
  stored: ByteSource,
  chain: Chain,
  options: { maxStoredBytes: number; signal?: AbortSignal | undefined },
): AsyncGenerator<Uint8Array> {
  const streams = chain.steps.every(({ step }) => step.codec.decodeStream !== undefined);
  const small = stored.size <= WHOLE_BYTES && (chain.plainSize ?? 0) <= WHOLE_PLAIN_BYTES;
  const signal = options.signal === undefined ? {} : { signal: options.signal };
  if (streams && small && chain.steps.length > 0) {
    const whole = decodeIfSmall(await stored.read(0, stored.size), chain);
    if (whole !== undefined) {
      yield whole;
      return;
    }
  }
  if (streams) {
    let chunks: AsyncIterable<Uint8Array> = readChunks(stored, 0, stored.size, signal);
    for (const { step, context } of chain.steps) chunks = step.codec.decodeStream!(chunks, context);
    yield* chunks;
    return;
  }
  checkWhole(stored.size, chain, options.maxStoredBytes);
  yield decodeWhole(await stored.read(0, stored.size), chain);
}

/** Undefined when the plain bytes, or those between two steps, are not small: they should flow. */
function decodeIfSmall(stored: Uint8Array, chain: Chain): Uint8Array | undefined {
  try {
    return decodeWithin(stored, chain, WHOLE_PLAIN_BYTES);
  } catch (error) {
    if (error instanceof LimitError) return undefined;
    throw error;
  }
}

/** The stored bytes of a plain stretch, piece by piece. */
export async function* encodeChunks(
  plain: ByteSource,
  chain: Chain,
  options: { maxStoredBytes: number; signal?: AbortSignal | undefined },
): AsyncGenerator<Uint8Array> {
  const streams = chain.steps.every(({ step }) => step.codec.encodeStream !== undefined);
  const signal = options.signal === undefined ? {} : { signal: options.signal };
  if (chain.steps.length === 0 || (streams && plain.size > WHOLE_BYTES)) {
    let chunks: AsyncIterable<Uint8Array> = readChunks(plain, 0, plain.size, signal);
    for (const { step, context } of [...chain.steps].reverse()) chunks = step.codec.encodeStream!(chunks, context);
    yield* chunks;
    return;
  }
  checkWhole(plain.size, chain, options.maxStoredBytes);
  yield encodeWhole(await plain.read(0, plain.size), chain);
}

function checkWhole(size: number, chain: Chain, most: number): void {
  const whole = chain.steps.find(({ step }) => step.codec.decodeStream === undefined)?.step.codec.name;
  if (whole === undefined || size <= most) return;
  throw new LimitError({
    code: 'limit-reached',
    what: `${whole} needs the whole stretch in memory`,
    found: `${size.toLocaleString('en')} bytes`,
    limit: `bytes of a stretch in memory, ${most.toLocaleString('en')}`,
  });
}

function inStep<T>(step: Step, work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (!(error instanceof FaultError)) throw error;
    const placed = error.with({ line: step.line });
    if (error instanceof FormatError && error.partial !== undefined)
      (placed as unknown as FormatError).partial = error.partial;
    throw placed;
  }
}
