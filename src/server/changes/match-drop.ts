/** The entries that files of a drop may be for, looked up for all of them at once. */
import { QueryTypes } from 'sequelize';
import { matchFile, SafePaths, type DroppedFile, type FileMatch, type MatchCandidate } from '../../core/game';
import { parseSplit } from '../../core/forms/picture';
import { database } from '../database';
import { filmNamed, isForFilm } from '../forms/film';
import { splitsOf } from '../games';
import { listLabels } from '../labels';
import type { KindName } from '../shapes';

/** A match, and which part of a packed picture the file is, when it is one. */
export type DropMatch = FileMatch & { readonly part?: { readonly rule: string; readonly suffix: string } };

/** Matches of the files, in their order. What no entry is called like may be a part of a picture that was split. */
export async function matchDrop(gameId: number, files: readonly DroppedFile[]): Promise<DropMatch[]> {
  const matches: DropMatch[] = await matchNames(gameId, files);
  for (const [i, file] of files.entries()) {
    if (matches[i]!.is === 'one' || !isForFilm(file.name)) continue;
    const path = await filmNamed(gameId, file.name);
    if (path !== undefined) matches[i] = { is: 'one', choice: { path, matchedBy: { code: 'by-film' } } };
  }
  const parts = (await splitsOf(gameId)).flatMap((rule) => parseSplit(rule).map(({ suffix }) => ({ rule, suffix })));
  for (const part of parts) {
    const ending = new RegExp(`${escapeRegExp(part.suffix)}(\\.[^./]*)?$`, 'i');
    const open = files.flatMap((file, i) => {
      const named = matches[i]!.is === 'one' || !ending.test(file.name) || file.kind !== 'picture';
      return named ? [] : [{ i, file: { ...file, name: file.name.replace(ending, '$1') } }];
    });
    if (open.length === 0) continue;
    const found = await matchNames(
      gameId,
      open.map(({ file }) => file),
    );
    for (const [at, { i }] of open.entries()) {
      const match = found[at]!;
      if (match.is === 'one') matches[i] = { ...match, part };
    }
  }
  return matches;
}

const escapeRegExp = (text: string) => text.replaceAll(/[.*+?^${}()|[\]\\]/g, '\\$&');

async function matchNames(gameId: number, files: readonly DroppedFile[]): Promise<FileMatch[]> {
  if (files.length === 0) return [];
  const [named, labelled] = await Promise.all([byName(gameId, files), byLabel(gameId, files)]);
  return files.map((file) => {
    const [name, stem, bare] = namesOf(file);
    const called = (keys: readonly string[]): MatchCandidate[] => {
      const candidates = new Map<string, MatchCandidate>();
      for (const key of keys) for (const one of named.get(key) ?? []) candidates.set(one.path, one);
      return [...candidates.values(), ...keys.flatMap((key) => labelled.get(key) ?? [])];
    };
    const own = called([name, stem]);
    return matchFile(file, own.length > 0 ? own : called([bare]));
  });
}

/**
 * What a file is called, the same without its ending, and without the number that keeps two of one name apart, as in
 * `doors (2)`; as names are compared.
 */
function namesOf({ name }: DroppedFile): readonly [name: string, stem: string, bare: string] {
  const last = name.slice(name.lastIndexOf('/') + 1).toLowerCase();
  const stem = last.replace(/\.[^.]*$/, '');
  return [last, stem, stem.replace(/ \(\d+\)$/, '')];
}

/** By the name of the entry, and by that without its ending. */
async function byName(gameId: number, files: readonly DroppedFile[]): Promise<Map<string, MatchCandidate[]>> {
  const names = [...new Set(files.flatMap(namesOf))];
  const rows = await database().query<{ path: string; kind: KindName; name: string }>(
    `select path, kind, lower(name collate "default") as name from entries
     where game_id = $1 and wins and not deleted
       and (lower(name collate "default") = any ($2::text[])
            or regexp_replace(lower(name collate "default"), '\\.[^.]*$', '') = any ($2::text[]))`,
    { bind: [gameId, names], type: QueryTypes.SELECT },
  );
  const found = new Map<string, MatchCandidate[]>();
  for (const { path, kind, name } of rows)
    for (const key of new Set([name, name.replace(/\.[^.]*$/, '')])) {
      const list = found.get(key) ?? [];
      list.push({ path, kind });
      found.set(key, list);
    }
  return found;
}

/** By what someone noted on the entry, as it is in a file name. */
async function byLabel(gameId: number, files: readonly DroppedFile[]): Promise<Map<string, MatchCandidate[]>> {
  const wanted = new Set(files.flatMap(namesOf));
  const fitting = (await listLabels(gameId)).flatMap(({ path, text }) => {
    const key = labelAsName(text).toLowerCase();
    return wanted.has(key) ? [{ path, text, key }] : [];
  });
  if (fitting.length === 0) return new Map();
  const rows = await database().query<{ path: string; kind: KindName }>(
    'select path, kind from entries where game_id = $1 and wins and path = any ($2::text[])',
    { bind: [gameId, fitting.map(({ path }) => path)], type: QueryTypes.SELECT },
  );
  const kinds = new Map(rows.map(({ path, kind }) => [path, kind]));
  const found = new Map<string, MatchCandidate[]>();
  for (const { path, text, key } of fitting) {
    const kind = kinds.get(path);
    if (kind === undefined) continue;
    found.set(key, [...(found.get(key) ?? []), { path, kind, label: text }]);
  }
  return found;
}

/** A label as it may be in the name of a file. */
export function labelAsName(text: string): string {
  return new SafePaths().clean(text.replaceAll(/[/\\]/g, '-')).path;
}
