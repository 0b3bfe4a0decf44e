/** What is checked of an entry while it is read. */
import type { Hasher } from '../../codecs';
import { FormatError, LimitError } from '../../faults';
import { sameValue, type Value } from '../formula/value';
import { showValue } from '../formula/show-value';
import { RATIO_MATTERS_FROM } from '../limits';
import type { Field } from '../model';
import type { OpenedArchive } from './opened-archive';
import { factsWith } from './entry-facts';
import type { OpenedEntry } from './entry-bytes';

export function checkClaim({ entries, limits, source }: OpenedArchive, entry: number): void {
  const size = entries.size(entry);
  const stored = entries.stored(entry);
  const absurd = size > RATIO_MATTERS_FROM && size > stored * limits.maxRatio;
  if (size <= limits.maxEntryBytes && !absurd) return;
  if (Number.isNaN(size)) return;
  throw new LimitError({
    code: 'limit-reached',
    what: 'the entry claims to unpack to very much',
    file: source.name,
    entry: entries.path(entry),
    found: `${size.toLocaleString('en')} bytes from ${stored.toLocaleString('en')}`,
    limit: absurd
      ? `maxRatio, ${limits.maxRatio} plain bytes for each stored byte`
      : `maxEntryBytes, ${limits.maxEntryBytes.toLocaleString('en')}`,
    hint: 'A small stretch that unpacks to a huge one is a common attack. Raise the limit if you trust the file.',
  });
}

interface DataCheck {
  readonly field: Field;
  readonly found: Value;
}

/** Fields of the row and the wrap that are made from the plain bytes alone: those a reader can check in passing. */
export function dataChecks(opened: OpenedEntry): DataCheck[] {
  const instances = [...opened.scope.rows, opened.wrap?.fields];
  return instances.flatMap((instance) => {
    if (instance === undefined) return [];
    return instance.shape.fields.flatMap((field) => {
      const content = field.is?.uses.content ?? [];
      if (content.length === 0 || content.some(({ which }) => which !== 'data')) return [];
      const found = instance.get(field.index);
      return found === undefined ? [] : [{ field, found }];
    });
  });
}

export function checkData(
  opened: OpenedEntry,
  checks: readonly DataCheck[],
  hashers: ReadonlyMap<string, Hasher>,
): void {
  if (checks.length === 0) return;
  const content = new Map([...hashers].map(([name, hasher]) => [name, hasher.digest()]));
  const { scope } = opened;
  scope.entry = factsWith(scope.entry!, { content: (_, hasher) => content.get(hasher) });
  for (const { field, found } of checks) {
    scope.fields = scope.rows.find((row) => row?.shape.fields.includes(field)) ?? opened.wrap?.fields;
    const wanted = field.is!.evaluate(scope);
    if (sameValue(wanted, found)) continue;
    throw new FormatError({
      code: 'checksum-differs',
      field: field.name,
      expected: hashText(found),
      found: hashText(wanted),
      hint: 'The entry’s bytes are damaged: get the file again.',
    });
  }
}

function hashText(value: Value): string {
  if (value instanceof Uint8Array) return Buffer.from(value).toString('hex');
  return typeof value === 'number' || typeof value === 'bigint'
    ? `0x${value.toString(16).toUpperCase().padStart(8, '0')}`
    : showValue(value);
}
