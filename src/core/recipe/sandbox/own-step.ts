/**
 * A recipe's own steps: short JavaScript functions that run in a JavaScript engine compiled to WebAssembly. They see
 * their bytes and parameters, and the steps of the language, and nothing else: no file, no network, no clock.
 */
import { createHash } from 'node:crypto';
import variant from '@jitl/quickjs-singlefile-cjs-release-sync';
import {
  newQuickJSWASMModuleFromVariant,
  newVariant,
  type QuickJSContext,
  type QuickJSRuntime,
  type QuickJSWASMModule,
} from 'quickjs-emscripten-core';
import { copyOf } from '../../bytes';
import { bringHasher, findCodec, type Codec, type CodecContext, type ParamValue } from '../../codecs';
import { FormatError, LimitError } from '../../faults';

/** Memory of one engine, in bytes. */
const MAX_MEMORY = 192 << 20;
/** A page of WebAssembly. */
const PAGE_BYTES = 1 << 16;
/** Pages the engine asks for at its start. */
const FIRST_PAGES = 256;
/**
 * How much one call may work: the engine counts one for so many turns of loops and calls, on a fast machine as on a slow
 * one. A call of its own for every thousand bytes comes on top.
 */
const MAX_WORK = 5_000;
const BYTES_FOR_WORK = 1_000;
const MAX_STACK = 1 << 20;

let engine: QuickJSWASMModule | undefined;

/** Loads the engine; must be awaited before a recipe with own steps is used. */
export async function prepareSandbox(): Promise<void> {
  // The engine's own limit does not count the buffers of arrays: its memory as a whole cannot grow beyond this.
  engine ??= await newQuickJSWASMModuleFromVariant(
    newVariant(variant, {
      wasmMemory: new WebAssembly.Memory({ initial: FIRST_PAGES, maximum: MAX_MEMORY / PAGE_BYTES }),
    }),
  );
}

/** The text of a step: its functions, what they share, and the names of its parameters. */
export interface OwnStep {
  readonly name: string;
  readonly takes: readonly string[];
  readonly shared: string | undefined;
  readonly decode: string;
  readonly encode: string | undefined;
}

/** A codec from the text of its functions. */
export function ownCodec({ name, takes, shared, decode, encode }: OwnStep): Codec {
  const machine = new Machine(name, { decode, encode }, shared);
  return {
    name,
    family: 'own',
    about: 'A step of the recipe’s own.',
    params: takes.map((param) => ({ name: param, type: 'any' as const })),
    decode: (stored, context) => {
      const plain = machine.call('decode', stored, context);
      if (context.plainSize !== undefined && plain.length !== context.plainSize)
        throw new FormatError({
          code: 'size-differs',
          what: `the step ${name} gives another size than the archive says`,
          expected: `${context.plainSize.toLocaleString('en')} bytes`,
          found: plain.length.toLocaleString('en'),
        });
      return plain;
    },
    encode: (plain, context) => machine.call('encode', plain, context),
  };
}

/**
 * Brings in a hash from the text of its function, which is given all bytes at once, and its parameters.
 *
 * @returns the key it is known by, one for each text
 */
export function ownHash(name: string, text: string): string {
  const key = `own:${createHash('sha256').update(text).digest('hex')}`;
  const machine = new Machine(name, { hash: text });
  bringHasher(key, (params) => {
    const chunks: Uint8Array[] = [];
    return {
      update: (bytes) => void chunks.push(copyOf(bytes)),
      digest: () =>
        digestOf(machine.call('hash', new Uint8Array(Buffer.concat(chunks)), { params, maxPlainBytes: Infinity })),
    };
  });
  return key;
}

/** What comes back from the function: a digit string behind a zero, or bytes behind a one. */
function digestOf(encoded: Uint8Array): number | bigint | Uint8Array {
  if (encoded[0] === 1) return encoded.slice(1);
  const value = BigInt(Buffer.from(encoded.subarray(1)).toString('latin1'));
  return value <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(value) : value;
}

type Work = 'decode' | 'encode' | 'hash';

/** One engine for one step; made when it is first needed, thrown away when a call went wrong. */
class Machine {
  private live: { runtime: QuickJSRuntime; context: QuickJSContext } | undefined;
  /** Units of work that are left, and the most bytes that a built-in step may make. */
  private left = 0;
  private most = 0;
  constructor(
    private readonly name: string,
    private readonly functions: Readonly<Partial<Record<Work, string | undefined>>>,
    private readonly shared?: string,
  ) {}

  /** @throws FormatError `codec-failed` with what the function threw, LimitError when it takes too long or too much */
  call(which: Work, bytes: Uint8Array, { params, maxPlainBytes }: CodecContext): Uint8Array {
    if (this.functions[which] === undefined)
      throw new FormatError({
        code: 'layout-impossible',
        what: `the step ${this.name} has no encode, so what goes through it cannot be changed`,
        hint: 'Add `encode` to the step in the recipe.',
      });
    const { context } = (this.live ??= this.start());
    this.left = MAX_WORK + bytes.length / BYTES_FOR_WORK;
    this.most = Math.min(maxPlainBytes, MAX_MEMORY);
    try {
      return context.newArrayBuffer(copyOf(bytes).buffer).consume((input) =>
        context.newString(JSON.stringify(plainParams(params))).consume((given) => {
          const run = context.getProp(context.global, which);
          const result = context.callFunction(run, context.undefined, input, given);
          run.dispose();
          if (result.error !== undefined) {
            const error = context.dump(result.error) as { name?: string; message?: string };
            result.error.dispose();
            throw this.failure(which, error);
          }
          return result.value.consume((value) => {
            const output = context.getArrayBuffer(value);
            const copy = copyOf(output.value);
            output.dispose();
            if (copy.length > maxPlainBytes && which === 'decode')
              throw new LimitError({
                code: 'limit-reached',
                what: `the step ${this.name} makes too much`,
                found: `${copy.length.toLocaleString('en')} bytes`,
                limit: `unpacked bytes of one stretch, ${maxPlainBytes.toLocaleString('en')}`,
              });
            return copy;
          });
        }),
      );
    } catch (error) {
      if (error instanceof LimitError) {
        // What ran away cannot be taken down in order: the engine is left to the collector, and the next opening of an
        // archive loads another.
        this.live = undefined;
        engine = undefined;
      }
      throw error;
    }
  }

  private start(): { runtime: QuickJSRuntime; context: QuickJSContext } {
    if (engine === undefined)
      throw new LimitError({
        code: 'limit-reached',
        what: `the step ${this.name} was given up before`,
        limit: WORK_LIMIT,
        hint: 'Open the archive again.',
      });
    const runtime = engine.newRuntime({ memoryLimitBytes: MAX_MEMORY, maxStackSizeBytes: MAX_STACK });
    runtime.setInterruptHandler(() => --this.left < 0);
    const context = runtime.newContext();
    this.left = MAX_WORK;
    this.bringSteps(context);
    const result = context.evalCode(program(this.functions, this.shared));
    if (result.error !== undefined) {
      const error = context.dump(result.error) as { name?: string; message?: string };
      result.error.dispose();
      context.dispose();
      runtime.dispose();
      throw this.failure('decode', error);
    }
    result.value.dispose();
    return { runtime, context };
  }

  /** Makes the steps of the language known to the script, as `unpack` and `pack`. */
  private bringSteps(context: QuickJSContext): void {
    context
      .newFunction('builtIn', (whichHandle, nameHandle, bytesHandle, paramsHandle, sizeHandle) => {
        const step = context.getString(nameHandle);
        const codec = findCodec(step);
        if (codec === undefined) throw new Error(`there is no step ${step}`);
        const given = context.getArrayBuffer(bytesHandle);
        const bytes = copyOf(given.value);
        given.dispose();
        this.left -= bytes.length / BYTES_FOR_WORK;
        const size = context.typeof(sizeHandle) === 'number' ? context.getNumber(sizeHandle) : undefined;
        const order: CodecContext = {
          params: withDefaults(codec, JSON.parse(context.getString(paramsHandle)) as Record<string, unknown>),
          maxPlainBytes: this.most,
          ...(size === undefined ? {} : { plainSize: size }),
        };
        const isDecoding = context.getString(whichHandle) === 'decode';
        const made = isDecoding ? codec.decode(bytes, order) : codec.encode(bytes, order);
        if (made.length > this.most) throw new Error(`${step} makes more bytes than are allowed`);
        return context.newArrayBuffer(copyOf(made).buffer);
      })
      .consume((handle) => context.setProp(context.global, 'builtIn', handle));
  }

  private failure(which: string, error: { name?: string; message?: string }): FormatError | LimitError {
    const message = `${error.name ?? 'Error'}: ${error.message ?? String(error)}`;
    if (/interrupted/.test(message))
      return new LimitError({
        code: 'limit-reached',
        what: `the step ${this.name} takes too long`,
        limit: WORK_LIMIT,
      });
    if (/out of memory/.test(message))
      return new LimitError({
        code: 'limit-reached',
        what: `the step ${this.name} takes too much memory`,
        limit: `bytes of a step, ${MAX_MEMORY.toLocaleString('en')}`,
      });
    return new FormatError({ code: 'codec-failed', what: `the step ${this.name} failed in ${which}: ${message}` });
  }
}

const WORK_LIMIT = `work of one call of an own step, ${MAX_WORK.toLocaleString('en')} and one for each ${BYTES_FOR_WORK.toLocaleString('en')} bytes`;

/** The parameters a script gives, as bytes and numbers; what it leaves out is as the step says. @throws Error for a missing one */
function withDefaults(codec: Codec, given: Readonly<Record<string, unknown>>): Record<string, ParamValue> {
  const params: Record<string, ParamValue> = {};
  for (const spec of codec.params) {
    const value = given[spec.name];
    if (value === undefined && spec.otherwise === undefined) throw new Error(`${codec.name} needs ${spec.name}`);
    const bytes = (value as { bytes?: number[] } | undefined)?.bytes;
    params[spec.name] =
      bytes === undefined ? ((value as ParamValue | undefined) ?? spec.otherwise!) : Uint8Array.from(bytes);
    const { length } = spec;
    if (length !== undefined && (params[spec.name] as Uint8Array).length !== length)
      throw new Error(`${spec.name} of ${codec.name} has ${length} bytes`);
  }
  return params;
}

/** Bytes travel as arrays, whole numbers beyond 2^53 as BigInt. */
function plainParams(params: Readonly<Record<string, ParamValue>>): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(params).map(([name, value]) => [
      name,
      value instanceof Uint8Array ? { bytes: [...value] } : typeof value === 'bigint' ? { big: String(value) } : value,
    ]),
  );
}

function program({ decode, encode, hash }: Readonly<Partial<Record<Work, string | undefined>>>, shared = ''): string {
  return `
    delete globalThis.Date; delete Math.random;
    const builtInStep = globalThis.builtIn; delete globalThis.builtIn;
    const encoded = (params) => JSON.stringify(params, (key, value) => value instanceof Uint8Array ? { bytes: [...value] } : value);
    const stepped = (which) => (name, bytes, params = {}, size = null) =>
      new Uint8Array(builtInStep(which, name, bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength), encoded(params), size));
    const unpack = stepped('decode');
    const pack = stepped('encode');
    const revive = (text) => {
      const given = JSON.parse(text);
      for (const key of Object.keys(given)) {
        const value = given[key];
        if (value && value.bytes) given[key] = new Uint8Array(value.bytes);
        else if (value && value.big) given[key] = BigInt(value.big);
      }
      return given;
    };
    const wrap = (work) => (buffer, text) => {
      let out = work(new Uint8Array(buffer), revive(text));
      if (Array.isArray(out)) out = Uint8Array.from(out);
      if (!(out instanceof Uint8Array)) throw new TypeError('the function has to give a Uint8Array');
      return out.buffer.slice(out.byteOffset, out.byteOffset + out.byteLength);
    };
    const hashed = (work) => (bytes, given) => {
      const out = work(bytes, given);
      if (out instanceof Uint8Array) return [1, ...out];
      const whole = typeof out === 'bigint' || Number.isInteger(out);
      if (!whole || out < 0) throw new TypeError('the function has to give a whole number from 0 on, or a Uint8Array');
      return [0, ...Array.from(String(out), (digit) => digit.charCodeAt(0))];
    };
    ${shared}
    ${decode === undefined ? '' : `globalThis.decode = wrap(${decode}\n);`}
    ${encode === undefined ? '' : `globalThis.encode = wrap(${encode}\n);`}
    ${hash === undefined ? '' : `globalThis.hash = wrap(hashed(${hash}\n));`}
  `;
}
