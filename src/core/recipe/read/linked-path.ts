/** Paths of links, as POSIX reads them. */

/**
 * The path that a link leads to, without `.` and `..`.
 *
 * @param from the path of the link, when it is relative to its folder
 * @example linkedPath('../b.txt', 'a/c/link') // → 'a/b.txt'
 */
export const linkedPath = (to: string, from: string | undefined): string =>
  normalPath(from === undefined || to.startsWith('/') ? to : `${from.slice(0, from.lastIndexOf('/') + 1)}${to}`);

/** A path that leads out of the archive keeps its `..`, so it is that of no entry. */
export function normalPath(path: string): string {
  const parts: string[] = [];
  for (const part of path.split('/')) {
    if (part === '' || part === '.') continue;
    if (part === '..' && parts.length > 0 && parts.at(-1) !== '..') parts.pop();
    else parts.push(part);
  }
  return parts.join('/');
}
