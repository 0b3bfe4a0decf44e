/** The bytes of one entry: stored, and plain behind its chain. */
import { sliceSource, type ByteSource } from '../bytes';
import { createHasher, type Hasher } from '../codecs';
import { FaultError, FormatError, LimitError, throwIfStopped, type Fault } from '../faults';
import type { OpenedArchive } from './archive';
import type { EntryTable } from './entry-table';
import { RATIO_MATTERS_FROM } from './limits';
import type { Recipe } from './model';
import { decodeChunks, prepareChain, type Chain } from './through';
import type { Scope } from './value';

/** What is wrong with an entry whose bytes cannot be found or unpacked. */
export function entryFault(recipe: Recipe, entries: EntryTable, entry: number, source: ByteSource): Fault {
  const end = entries.at(entry) + entries.stored(entry);
  if (end > source.size) {
    return {
      code: 'outside-file',
      what: 'the bytes of an entry are not inside the file',
      entry: entries.path(entry),
      offset: entries.at(entry),
      expected: `an end at or before 0x${source.size.toString(16).toUpperCase()}`,
      found: `0x${end.toString(16).toUpperCase()}`,
      hint: 'The file may be cut off or its index damaged.',
    };
  }
  return {
    code: 'codec-failed',
    what: 'the recipe does not know how an entry is packed',
    entry: entries.path(entry),
    line: recipe.entries.line,
    expected: `one of ${recipe.entries.methods.map(String).join(', ')}`,
    found: String(entries.method(entry)),
  };
}

/** The stored bytes of an entry. @throws FormatError `outside-file` */
export function storedSource(archive: OpenedArchive, entry: number): ByteSource {
  const { entries, source } = archive;
  if (entries.at(entry) + entries.stored(entry) > source.size)
    throw new FormatError({ ...entryFault(archive.recipe, entries, entry, source), file: source.name });
  return sliceSource(source, entries.at(entry), entries.stored(entry), source.name);
}

/** The chain of an entry with its parameters. @throws FormatError when the recipe does not know its method */
export function entryChain(archive: OpenedArchive, entry: number): Chain {
  const { entries, recipe, limits, source } = archive;
  const steps = recipe.entries.stepsOf(entries.method(entry));
  if (steps === undefined)
    throw new FormatError({ ...entryFault(recipe, entries, entry, source), file: source.name, recipe: recipe.id });
  const size = entries.size(entry);
  if (size > limits.maxEntryBytes || (size > RATIO_MATTERS_FROM && size > entries.stored(entry) * limits.maxRatio)) {
    throw new LimitError({
      code: 'limit-reached',
      what: 'the entry claims to unpack to very much',
      file: source.name,
      entry: entries.path(entry),
      found: `${size.toLocaleString('en')} bytes from ${entries.stored(entry).toLocaleString('en')}`,
      limit:
        size > limits.maxEntryBytes
          ? `bytes of one entry, ${limits.maxEntryBytes.toLocaleString('en')}`
          : `plain bytes for each stored byte, ${limits.maxRatio}`,
      hint: 'A small stretch that unpacks to a huge one is a common attack. Raise the limit if you trust the file.',
    });
  }
  const scope: Scope = {
    file: archive.facts,
    fields: undefined,
    row: entries.rows.row(entries.row(entry)),
    entry: undefined,
  };
  return prepareChain(steps, {
    scope,
    plainSize: Number.isNaN(size) ? undefined : size,
    maxPlainBytes: limits.maxEntryBytes,
  });
}

export interface ReadEntryOptions {
  readonly signal?: AbortSignal | undefined;
  /** Compare the bytes with the checksums of the entry's row once they have all been read. Default true. */
  readonly verify?: boolean;
}

/**
 * The plain bytes of an entry, in order.
 *
 * @throws FormatError `codec-failed`, `size-differs` or, after the last byte, `checksum-differs`
 */
export async function* readEntry(
  archive: OpenedArchive,
  entry: number,
  options: ReadEntryOptions = {},
): AsyncGenerator<Uint8Array> {
  const place = { file: archive.source.name, recipe: archive.recipe.id, entry: archive.entries.path(entry) };
  try {
    const stored = storedSource(archive, entry);
    const chain = entryChain(archive, entry);
    const checks = options.verify === false ? [] : dataChecks(archive);
    const hashers = checks.map(({ hasher }) => createHasher(hasher)!);
    let total = 0;
    for await (const chunk of decodeChunks(stored, chain, {
      maxStoredBytes: archive.limits.maxRegionBytes,
      signal: options.signal,
    })) {
      throwIfStopped(options.signal);
      for (const hasher of hashers) hasher.update(chunk);
      total += chunk.length;
      yield chunk;
    }
    const size = archive.entries.size(entry);
    if (!Number.isNaN(size) && total !== size) {
      throw new FormatError({
        code: 'size-differs',
        expected: `${size.toLocaleString('en')} bytes`,
        found: total.toLocaleString('en'),
      });
    }
    checkData(archive, entry, checks, hashers);
  } catch (error) {
    throw error instanceof FaultError ? error.with(place) : error;
  }
}

interface DataCheck {
  readonly field: number;
  readonly hasher: string;
}

/** Fields of the row that are nothing but a hash over the plain bytes: those a reader can check in passing. */
function dataChecks(archive: OpenedArchive): DataCheck[] {
  return archive.recipe.entries.shape.fields.flatMap((field) => {
    const content = field.is?.uses.content ?? [];
    const [only] = content;
    const plainly =
      only !== undefined &&
      content.length === 1 &&
      only.which === 'data' &&
      field.is!.text === `${only.hasher}(entry.data)`;
    return plainly ? [{ field: field.index, hasher: only.hasher }] : [];
  });
}

function checkData(
  archive: OpenedArchive,
  entry: number,
  checks: readonly DataCheck[],
  hashers: readonly Hasher[],
): void {
  const { rows } = archive.entries;
  const row = archive.entries.row(entry);
  for (const [i, check] of checks.entries()) {
    const wanted = rows.columns[check.field]!.get(row);
    if (wanted === undefined) continue;
    const found = hashers[i]!.digest();
    const same =
      wanted instanceof Uint8Array && found instanceof Uint8Array
        ? Buffer.compare(wanted, found) === 0
        : wanted === found;
    if (same) continue;
    throw new FormatError({
      code: 'checksum-differs',
      field: rows.shape.fields[check.field]!.name,
      expected: hashText(wanted),
      found: hashText(found),
      hint: 'The entry’s bytes are damaged: get the file again.',
    });
  }
}

function hashText(value: unknown): string {
  return value instanceof Uint8Array
    ? Buffer.from(value).toString('hex')
    : `0x${Number(value).toString(16).toUpperCase().padStart(8, '0')}`;
}
