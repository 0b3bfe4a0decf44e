/** Entry paths made fit for a file system; an archive from a stranger may name anything. */

export interface SafePath {
  /** Relative, with `/`, never leading out of the folder it is put under. */
  readonly path: string;
  /** Why it is not the path the archive has, or undefined when it is. */
  readonly renamed: string | undefined;
}

/** Names Windows keeps for devices, with or without an extension. */
const RESERVED = /^(con|prn|aux|nul|com[0-9]|lpt[0-9])(\..*)?$/i;
/** Characters that some file system refuses; control characters among them. */
const REFUSED = /[\u0000-\u001f\u007f<>:"|?*]/g;
/** Bytes of one name; most file systems stop at 255, and the name of a file being written is longer by a few. */
const MAX_NAME_BYTES = 240;
const MAX_DEPTH = 64;

/** Cleans the paths of one taking out, and keeps them apart where cleaning or letter case makes two the same. */
export class SafePaths {
  /** Paths of files, and those of folders, in small letters. */
  private readonly files = new Set<string>();
  private readonly folders = new Set<string>();
  /** Folders that got another path, because a file has theirs. */
  private readonly moved = new Map<string, string>();

  /** @param all paths that will be cleaned: a file that has the path of one of their folders is the one that gives way */
  constructor(all: Iterable<string> = []) {
    const seen = new Set<string>();
    for (const path of all) {
      const folder = path.slice(0, Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\')) + 1);
      if (folder === '' || seen.has(folder)) continue;
      seen.add(folder);
      this.below(partsOf(`${folder}x`, new Set()));
    }
  }

  clean(path: string): SafePath {
    const reasons = new Set<string>();
    const parts = partsOf(path, reasons);
    const wanted = parts.join('/');
    const free = this.free(this.below(parts));
    this.files.add(free.toLowerCase());
    if (free !== wanted) reasons.add('another entry has that name');
    return { path: free, renamed: reasons.size === 0 ? undefined : [...reasons].join(', ') };
  }

  /** The path under folders that are no files: an archive may have both under one name. */
  private below(parts: readonly string[]): string {
    let folder = '';
    for (const part of parts.slice(0, -1)) {
      const wanted = folder === '' ? part : `${folder}/${part}`;
      const key = wanted.toLowerCase();
      if (this.files.has(key) && !this.moved.has(key)) this.moved.set(key, this.free(wanted));
      folder = this.moved.get(key) ?? wanted;
      this.folders.add(folder.toLowerCase());
    }
    return folder === '' ? parts.at(-1)! : `${folder}/${parts.at(-1)!}`;
  }

  /** Letter case does not distinguish files everywhere. */
  private free(path: string): string {
    let candidate = path;
    const isTaken = (key: string) => this.files.has(key) || this.folders.has(key);
    for (let n = 2; isTaken(candidate.toLowerCase()); n++) {
      const dot = path.lastIndexOf('.');
      const cut = dot > path.lastIndexOf('/') + 1 ? dot : path.length;
      candidate = `${path.slice(0, cut)} (${n})${path.slice(cut)}`;
    }
    return candidate;
  }
}

/** Fit names, the folders' first. */
function partsOf(path: string, reasons: Set<string>): string[] {
  const parts: string[] = [];
  const given = path.replaceAll('\\', '/').split('/');
  for (const [i, part] of given.entries()) {
    const isName = i === given.length - 1;
    if (part === '..') reasons.add('it leads upwards');
    if (!['', '.', '..'].includes(part)) parts.push(cleanName(part, reasons));
    else if (isName && parts.length > 0) {
      // Without a name of its own it would lie where its folder is.
      parts.push('nameless');
      reasons.add('it has no name');
    }
  }
  if (path.startsWith('/') || path.startsWith('\\')) reasons.add('it is absolute');
  if (parts.length > MAX_DEPTH) {
    parts.splice(MAX_DEPTH - 1, parts.length - MAX_DEPTH);
    reasons.add('it is nested too deep');
  }
  if (parts.length === 0) {
    parts.push('nameless');
    reasons.add('it has no name');
  }
  return parts;
}

function cleanName(name: string, reasons: Set<string>): string {
  let clean = name.normalize('NFC').replace(REFUSED, '_');
  if (clean !== name.normalize('NFC')) reasons.add('it has characters that file systems refuse');
  const trimmed = clean.replace(/[. ]+$/, '');
  if (trimmed !== clean) {
    reasons.add('it ends in a dot or a space');
    clean = trimmed === '' ? '_' : trimmed;
  }
  if (RESERVED.test(clean)) {
    reasons.add('the name is reserved');
    clean = `_${clean}`;
  }
  if (Buffer.byteLength(clean) > MAX_NAME_BYTES) {
    reasons.add('the name is too long');
    const dot = clean.lastIndexOf('.');
    const extension = dot > 0 && clean.length - dot <= 16 ? clean.slice(dot) : '';
    let stem = clean.slice(0, clean.length - extension.length);
    while (Buffer.byteLength(stem + extension) > MAX_NAME_BYTES) stem = stem.slice(0, -1);
    clean = stem.toWellFormed() + extension;
  }
  return clean;
}
