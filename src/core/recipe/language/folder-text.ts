/** Recipes that present a folder: loose files that are each scrambled. They are written out as an archive with a listing. */

/** The volume with the listing of the files: it is made when the folder is opened and never lies on a disk. */
export const LISTING = 'listing';
/** What the file name of such a set of volumes is: every file of the folder, and of those below it. */
export const ANY_FILE = '**';

type Plain = Record<string, unknown>;

function isPlain(value: unknown): value is Plain {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/**
 * The recipe of a folder with what goes without saying: a listing with a row for each file, in which the entries stand,
 * and each file as the one entry of a volume. Anything else comes back as it is.
 *
 * @param plain the recipe's YAML, not checked yet
 */
export function withListing(plain: unknown): unknown {
  if (!isPlain(plain) || plain['presents'] !== 'folder' || !isPlain(plain['volumes'])) return plain;
  const set = Object.entries(plain['volumes']).find(([, volume]) => fileOf(volume) === ANY_FILE)?.[0];
  if (set === undefined || !isPlain(plain['entries'])) return plain;
  const regions: unknown[] = Array.isArray(plain['regions']) ? plain['regions'] : [];
  return {
    ...plain,
    volumes: { ...plain['volumes'], [LISTING]: { file: '\0', optional: true } },
    shapes: {
      ...(isPlain(plain['shapes']) ? plain['shapes'] : {}),
      'listing-head': [{ field: 'count', as: 'u32', numbers: 'little', is: 'count(entries)' }],
      listed: [
        { field: 'number', as: 'u32', numbers: 'little', is: 'entry.volume' },
        { field: 'size', as: 'u64', numbers: 'little', is: 'entry.stored' },
        { field: 'path', as: 'text(u32, utf-8)', numbers: 'little', is: 'entry.path' },
      ],
    },
    regions: [
      ...regions,
      { region: 'listing-head', volume: LISTING, at: 0, holds: 'listing-head' },
      { region: set, volume: LISTING, at: 'length(listing-head)', holds: 'listed[listing-head.count]' },
      { region: 'loose', volume: set, holds: 'entries' },
    ],
    entries: {
      path: `${rowOf(plain['entries'])}.path`,
      // What is scrambled keeps its length; a recipe that packs says another.
      size: `${rowOf(plain['entries'])}.size`,
      ...plain['entries'],
      volume: `${set}[${rowOf(plain['entries'])}.number]`,
      at: 0,
      stored: `${rowOf(plain['entries'])}.size`,
    },
  };
}

function fileOf(volume: unknown): unknown {
  return isPlain(volume) ? volume['file'] : volume;
}

/** The name that `each` gives a row: `file in files`. */
function rowOf(entries: Plain): string {
  return /^\s*(\S+)\s+in\s/.exec(String(entries['each']))?.[1] ?? 'file';
}

/** The bytes of a listing. */
export function listingBytes(files: readonly { readonly path: string; readonly size: number }[]): Uint8Array {
  const head = Buffer.alloc(4);
  head.writeUInt32LE(files.length);
  const rows = files.flatMap(({ path, size }, number) => {
    const name = Buffer.from(path, 'utf8');
    const fixed = Buffer.alloc(16);
    fixed.writeUInt32LE(number, 0);
    fixed.writeBigUInt64LE(BigInt(size), 4);
    fixed.writeUInt32LE(name.length, 12);
    return [fixed, name];
  });
  return new Uint8Array(Buffer.concat([head, ...rows]));
}
