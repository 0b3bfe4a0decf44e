/**
 * Fields that have no formula and yet hold the size or a checksum of what changes: written as they were found they would
 * be wrong, and no reader that follows the recipe would see it.
 */
import { readChunks, type ByteSource } from '../../../bytes';
import { createHasher } from '../../../codecs';
import { FormatError } from '../../../faults';
import { isNumeric, sameValue, type Value } from '../../formula/value';
import type { Field } from '../../model';
import { fieldOffset } from '../../proof/field-formulas';
import type { OpenedArchive } from '../../read/opened-archive';
import type { Table } from '../../read/table';
import { keptInPlace, type Plan } from '../rendering/planned';

/** Checksums that are tried on volumes and regions. */
const SUMS = ['crc32', 'adler32', 'md5', 'sha1', 'sha256'] as const;
/** More bytes than this are not read for it. */
const MOST_BYTES = 256 << 20;
/** Smaller numbers may be anything. */
const LEAST_SIZE = 256;

interface Candidate {
  readonly table: Table;
  readonly field: Field;
  readonly region: string;
  readonly value: Value;
}

/** @throws FormatError `layout-impossible` naming the field, and what it holds */
export async function refuseUnexplainedSums(archive: OpenedArchive, plan: Plan): Promise<void> {
  const candidates = keptFields(archive);
  if (candidates.length === 0 || archive.recipe.wrapped.length > 0) return;
  const changed = archive.volumes.filter(({ name }) => {
    const volume = plan.volumes.find((one) => one.name === name);
    return volume !== undefined && (keptInPlace(volume) !== volume.size || volume.size !== volume.base?.size);
  });
  for (const { name, source } of changed) {
    if (source.size >= LEAST_SIZE) refuse(archive, candidates, source.size, `the size of ${name}`);
    if (source.size > MOST_BYTES) continue;
    for (const [sum, value] of await sumsOf(source, candidates))
      refuse(archive, candidates, value, `the ${sum} of ${name}`);
  }
}

/** Fields that stand once in the file and are kept as they were found. */
function keptFields({ regions }: OpenedArchive): Candidate[] {
  const candidates: Candidate[] = [];
  for (const { region, tables } of regions.values()) {
    for (const table of tables.all()) {
      if (table.length !== 1) continue;
      for (const field of table.shape.fields) {
        if (field.is !== undefined || field.must !== undefined || field.parts.length > 0) continue;
        const value = table.columns[field.index]!.get(0);
        if (isSum(value)) candidates.push({ table, field, region: region.name, value });
      }
    }
  }
  return candidates;
}

function isSum(value: Value): boolean {
  if (value instanceof Uint8Array) return [16, 20, 32].includes(value.length) && value.some((byte) => byte !== 0);
  return isNumeric(value) && value >= LEAST_SIZE;
}

type Sum = (typeof SUMS)[number];

/** Sums of open files: these do not change meanwhile, and a proof plans many edits of one. */
const taken = new WeakMap<ByteSource, Map<Sum, Value>>();

/** The sums that some candidate could hold. Those that have not been taken yet are taken together. */
async function sumsOf(source: ByteSource, candidates: readonly Candidate[]): Promise<[Sum, Value][]> {
  const known = taken.get(source) ?? new Map<Sum, Value>();
  taken.set(source, known);
  const lengths = new Set(candidates.map(({ value }) => lengthOf(value)));
  const wanted = SUMS.filter((name) => lengths.has(lengthOf(createHasher(name).digest())));
  const hashers = wanted.filter((name) => !known.has(name)).map((name) => ({ name, hasher: createHasher(name) }));
  if (hashers.length > 0) {
    for await (const chunk of readChunks(source)) for (const { hasher } of hashers) hasher.update(chunk);
    for (const { name, hasher } of hashers) known.set(name, hasher.digest());
  }
  return wanted.map((name) => [name, known.get(name)]);
}

const lengthOf = (sum: Value): number => (sum instanceof Uint8Array ? sum.length : 4);

function refuse(archive: OpenedArchive, candidates: readonly Candidate[], held: Value, what: string): void {
  const found = candidates.find(({ value }) => sameValue(value, held));
  if (found === undefined) return;
  throw new FormatError({
    code: 'layout-impossible',
    file: archive.source.name,
    recipe: archive.recipe.id,
    line: found.field.line,
    region: found.region,
    field: found.field.name,
    offset: fieldOffset(found.table, 0, found.field),
    what: `${found.field.name} holds ${what}, has no formula, and would be wrong in the new file`,
    hint: 'Give it `is:` in the recipe, or `must:` when it never changes.',
  });
}
