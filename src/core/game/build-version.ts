/** Which build of a game this is, from what its files say. */

export interface FoundVersion {
  readonly version: string;
  /** How it was found, in words. */
  readonly how: string;
  /** What is surer wins: version resources, version files, texts of a program. */
  readonly rank: number;
}

/** Files whose whole content is the version, by their names. */
const VERSION_FILE = /(^|[/_.-])(version|build|release)([_.-]?(info|number|id))?(\.(txt|json|ini|cfg|yaml|yml))?$/i;
/** A version in a text: two to four numbers with dots between, and what may follow (`1.4.2-beta3`). */
const VERSION = /(?<![\d.])\d{1,5}(?:\.\d{1,6}){1,3}(?:[-+][0-9A-Za-z][0-9A-Za-z.]{0,15})?(?![\d.])/;

export function isVersionFile(path: string): boolean {
  return VERSION_FILE.test(path);
}

/** The first version in a text, or the text itself when a version file holds one plain word or number. */
export function versionInText(text: string): string | undefined {
  const found = VERSION.exec(text)?.[0];
  if (found !== undefined) return found;
  const only = text.trim();
  return /^[A-Za-z]?\d{1,10}$/.test(only) ? only : undefined;
}

/** The version in a version file. */
export function versionOfFile(path: string, text: string): FoundVersion | undefined {
  const version = versionInText(text.slice(0, 4096));
  return version === undefined ? undefined : { version, how: `${path} says so`, rank: 3 };
}

/** True for files that are programs by their first bytes (PE, ELF, Mach-O) or their names. */
export function isProgram(path: string, head: Uint8Array): boolean {
  const start = Buffer.from(head.subarray(0, 4)).toString('latin1');
  if (start.startsWith('MZ') || start === '\x7fELF' || /^\xcf\xfa\xed\xfe|^\xca\xfe\xba\xbe/.test(start)) return true;
  return /\.(exe|bin|dll|so|x86|x86_64|dylib|elf)$/i.test(path);
}

/**
 * The version in a stretch of a program: its version resource (`FileVersion` or `ProductVersion` in UTF-16, as the
 * PE format has them), a text with the program's own name before a version, or one that says `version` or `build`.
 */
export function versionInProgram(path: string, bytes: Uint8Array): FoundVersion | undefined {
  const buffer = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (const key of ['ProductVersion', 'FileVersion']) {
    const at = buffer.indexOf(Buffer.from(`${key}\0`, 'utf16le'));
    if (at < 0) continue;
    const value = buffer.subarray(at + key.length * 2, at + key.length * 2 + 96).toString('utf16le');
    const version = VERSION.exec(value.replace(/\0+/g, ' ').replaceAll(', ', '.'))?.[0];
    if (version !== undefined) return { version, how: `the version resource of ${path}`, rank: 4 };
  }
  let best: FoundVersion | undefined;
  const name = plainWords(path.slice(path.lastIndexOf('/') + 1).replace(/\.[^.]*$/, ''));
  const text = buffer.toString('latin1');
  for (const run of text.matchAll(/[\x20-\x7e]{5,200}/g)) {
    const version = VERSION.exec(run[0]);
    if (version === null) continue;
    const before = run[0].slice(0, version.index);
    const own = name.length > 2 && plainWords(before).includes(name);
    const said = /(?:version|build|release|ver\.?)[\s:=v_-]{0,4}$/i.test(before);
    const rank = own ? 2 : said ? 1 : 0;
    if (rank > (best?.rank ?? 0)) best = { version: version[0], how: `a text in ${path}`, rank };
    if (rank === 2) break;
  }
  return best;
}

function plainWords(text: string): string {
  return text.toLowerCase().replace(/[^a-z0-9]+/g, '');
}
