/** Quick tests whether a key can fit: what a wrong one fails at the first bytes, without opening the archive. */
import { ByteWriter, type ByteSource } from '../../bytes';
import { AesBlocks } from '../../codecs';
import { FaultError } from '../../faults';
import { scopeOf, truthy, type Scope } from '../formula/value';
import { wholeNumber } from '../formula/show-value';
import type { FieldKind, Recipe, RegionWriter, Shape, Step } from '../model';
import { firstLocked, openTables } from './archive';
import { prepareChain } from './through';

export interface KeyProbe {
  /** Bytes of a key; 0 for any number. */
  readonly bytes: number;
  /** How a key is judged, in words. */
  readonly how: string;
  /** True when the key of that length at an offset may fit: most wrong ones do not pass. */
  mayFit(bytes: Uint8Array, at: number): boolean;
  /** Opens the tables with it: what passes this fits. */
  fits(key: Uint8Array): Promise<boolean>;
  /** Where the lock is a repeating XOR over bytes that are known: those bytes, stored and plain. */
  readonly known: { readonly stored: Uint8Array; readonly plain: Uint8Array } | undefined;
}

/** Stored bytes of a region that are unlocked for a test. */
const SAMPLE_BYTES = 64;

/**
 * A probe for one slot of a locked archive.
 *
 * @param keys of the other slots
 * @returns undefined when nothing in the archive is locked with that slot, or nothing says whether a key fits
 */
export async function keyProbe(
  recipe: Recipe,
  files: readonly ByteSource[],
  slot: string,
  keys: ReadonlyMap<string, Uint8Array> = new Map(),
): Promise<KeyProbe | undefined> {
  const ring = new Map(keys);
  ring.delete(slot);
  const locked = await firstLocked(recipe, files, ring);
  const size = recipe.slots.get(slot)?.bytes;
  if (locked === undefined || size === undefined) return undefined;
  const { region, source, facts } = locked;
  const scope = scopeOf(facts);
  // A length or a place that needs the key itself cannot be looked at before it is there.
  if (region.at === undefined || typeof region.holds === 'string') return undefined;
  const at = wholeNumber(region.at.evaluate(scope), 'the start of the region');
  const length =
    region.length === undefined
      ? source.size - at
      : wholeNumber(region.length.evaluate(scope), 'the length of the region');
  const stored = await source.read(at, Math.max(0, Math.min(SAMPLE_BYTES, length, source.size - at)));
  const steps = region.through.filter((step) => step.when === undefined || truthy(step.when.evaluate(scope)));
  const check = plainCheck(steps[1], region.holds, scope);
  const [first] = steps;
  if (first === undefined || check === undefined) return undefined;
  const fits = async (key: Uint8Array) => {
    try {
      await openTables(recipe, files, { keys: new Map([...keys, [slot, key]]) });
      return true;
    } catch (error) {
      if (error instanceof FaultError) return false;
      throw error;
    }
  };
  const isSlot = keyIsSlot(first, slot, ring, scope, size);
  const quick = isSlot ? aesTest(first, scope, stored, check) : undefined;
  const known =
    first.codec.name === 'xor' && isSlot && check.plain !== undefined
      ? { stored: stored.subarray(0, check.plain.length), plain: check.plain }
      : undefined;
  return {
    bytes: size,
    how: check.how,
    known,
    fits,
    mayFit: quick ?? generalTest(first, slot, ring, scope, stored, check, size),
  };
}

interface PlainCheck {
  readonly how: string;
  /** Bytes that must be there for the check to say anything. */
  readonly least: number;
  /** The only plain bytes that pass, where there are only these. */
  readonly plain: Uint8Array | undefined;
  holds(plain: Uint8Array): boolean;
}

/** What the first unlocked bytes must look like: the head of a compression, or fields that must have a value. */
function plainCheck(next: Step | undefined, holds: FieldKind, scope: Scope): PlainCheck | undefined {
  if (next !== undefined) return HEADS[next.codec.name];
  const shape = holds.type.kind === 'shape' ? holds.type.shape : undefined;
  const parts = shape === undefined ? [] : mustParts(shape, scope);
  const [first] = parts;
  if (first === undefined) return undefined;
  const only = first.at === 0 && first.choices.length === 1 ? first.choices[0] : undefined;
  return {
    how: `the field ${first.name} must be ${first.text}`,
    least: first.at + Math.max(...first.choices.map((choice) => choice.length)),
    plain: only,
    holds: (plain) =>
      parts.every(
        ({ at, choices }) =>
          at + choices[0]!.length > plain.length ||
          choices.some((choice) => choice.every((byte, i) => plain[at + i] === byte)),
      ),
  };
}

const HEADS: Readonly<Record<string, PlainCheck>> = {
  zlib: head(
    'it must begin as zlib does',
    3,
    (p) =>
      (p[0]! & 0x0f) === 8 &&
      p[0]! >> 4 <= 7 &&
      ((p[0]! << 8) | p[1]!) % 31 === 0 &&
      (p[1]! & 0x20) === 0 &&
      (p[2]! & 6) !== 6,
  ),
  gzip: head(
    'it must begin as gzip does',
    4,
    (p) => p[0] === 0x1f && p[1] === 0x8b && p[2] === 8 && (p[3]! & 0xe0) === 0,
  ),
  zstd: head('it must begin as zstd does', 4, (p) => p[0] === 0x28 && p[1] === 0xb5 && p[2] === 0x2f && p[3] === 0xfd),
  'lz4-frame': head(
    'it must begin as an LZ4 frame does',
    4,
    (p) => p[0] === 4 && p[1] === 0x22 && p[2] === 0x4d && p[3] === 0x18,
  ),
  xz: head('it must begin as xz does', 4, (p) => p[0] === 0xfd && p[1] === 0x37 && p[2] === 0x7a && p[3] === 0x58),
};

function head(how: string, least: number, holds: (plain: Uint8Array) => boolean): PlainCheck {
  return { how, least, plain: undefined, holds };
}

interface MustPart {
  readonly name: string;
  readonly text: string;
  readonly at: number;
  /** The bytes of every value the field may have. */
  readonly choices: readonly Uint8Array[];
}

/** Fields at the start of a shape that must have one of a few values. */
function mustParts(shape: Shape, scope: Scope): MustPart[] {
  const parts: MustPart[] = [];
  let at = 0;
  for (const field of shape.fields) {
    if (field.when !== undefined || field.at !== undefined) break;
    const inner = field.kind.type.kind === 'shape' ? field.kind.type.shape : undefined;
    if (inner !== undefined && at === 0) return mustParts(inner, scope);
    const choices = field.must?.choices?.map((value) => {
      const writer = new ByteWriter();
      // Numbers, texts and bytes of fixed length are written as they are wherever they stand.
      field.kind.write(writer as RegionWriter, value, scope);
      return new Uint8Array(writer.bytes());
    });
    if (choices !== undefined) parts.push({ name: field.name, text: field.must!.text, at, choices });
    if (field.kind.fixedSize === undefined) break;
    at += field.kind.fixedSize;
    if (at >= SAMPLE_BYTES) break;
  }
  return parts;
}

/** Any cipher: the step is prepared with the key, and the sample goes through it. */
function generalTest(
  step: Step,
  slot: string,
  ring: Map<string, Uint8Array>,
  scope: Scope,
  stored: Uint8Array,
  check: PlainCheck,
  size: number,
): KeyProbe['mayFit'] {
  return (bytes, at) => {
    ring.set(slot, size === 0 ? bytes.subarray(at) : bytes.subarray(at, at + size));
    try {
      const chain = prepareChain([step], { scope, maxPlainBytes: 1 << 20 });
      const { context } = chain.steps[0]!;
      // The padding is at the end, which the sample does not have.
      const params = 'pad' in context.params ? { ...context.params, pad: 'none' } : context.params;
      const plain = step.codec.decode(new Uint8Array(stored), { ...context, params });
      return plain.length >= check.least && check.holds(plain);
    } catch {
      return false;
    } finally {
      ring.delete(slot);
    }
  };
}

/** True when the key of a step is what is in the slot, and not computed from it. */
function keyIsSlot(step: Step, slot: string, ring: Map<string, Uint8Array>, scope: Scope, size: number): boolean {
  const key = step.params['key'];
  if (key === undefined) return false;
  return [0x5a, 0xa5].every((byte) => {
    const marker = new Uint8Array(Math.max(1, size)).fill(byte);
    ring.set(slot, marker);
    try {
      const found = key.evaluate(scope);
      return found instanceof Uint8Array && Buffer.compare(found, marker) === 0;
    } catch {
      return false;
    } finally {
      ring.delete(slot);
    }
  });
}

/** AES whose key is the slot itself, without a call for each key. */
function aesTest(step: Step, scope: Scope, stored: Uint8Array, check: PlainCheck): KeyProbe['mayFit'] | undefined {
  const parts = /^aes-(128|192|256)-(ecb|cbc|ctr|cfb)$/.exec(step.codec.name);
  if (parts === null || stored.length < 16 || check.least > 16) return undefined;
  const iv = parts[2] === 'ecb' ? new Uint8Array(16) : step.params['iv']?.evaluate(scope);
  if (!(iv instanceof Uint8Array) || iv.length !== 16) return undefined;
  const machine = new AesBlocks(Number(parts[1]) / 8);
  const view = (source: Uint8Array) => new DataView(source.buffer, source.byteOffset, source.byteLength);
  const words = (source: Uint8Array) =>
    [0, 4, 8, 12].map((at) => view(source).getInt32(at)) as [number, number, number, number];
  const backwards = parts[2] === 'ecb' || parts[2] === 'cbc';
  const given = words(backwards ? stored : iv);
  const mixed = words(backwards ? iv : stored);
  const plain = new Uint8Array(16);
  const out = view(plain);
  return (bytes, at) => {
    machine.expand(bytes, at);
    if (backwards) machine.decrypt(...given);
    else machine.encrypt(...given);
    for (let i = 0; i < 4; i++) out.setInt32(4 * i, machine.block[i]! ^ mixed[i]!);
    return check.holds(plain);
  };
}
