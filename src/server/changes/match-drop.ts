/** The entries that files of a drop may be for, looked up for all of them at once. */
import { QueryTypes } from 'sequelize';
import { matchFile, SafePaths, type DroppedFile, type FileMatch, type MatchCandidate } from '../../core/game';
import { database } from '../database';
import { listLabels } from '../labels';
import type { KindName } from '../shapes';

/** Matches of the files, in their order. */
export async function matchDrop(gameId: number, files: readonly DroppedFile[]): Promise<FileMatch[]> {
  const [named, labelled] = await Promise.all([byName(gameId, files), byLabel(gameId, files)]);
  return files.map((file) => {
    const [name, stem] = namesOf(file);
    const candidates = new Map<string, MatchCandidate>();
    for (const key of [name, stem]) for (const one of named.get(key) ?? []) candidates.set(one.path, one);
    return matchFile(file, [...candidates.values(), ...(labelled.get(stem) ?? [])]);
  });
}

/** What a file is called, and the same without its ending, as names are compared. */
function namesOf({ name }: DroppedFile): readonly [name: string, stem: string] {
  const last = name.slice(name.lastIndexOf('/') + 1).toLowerCase();
  return [last, last.replace(/\.[^.]*$/, '')];
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

/** By what somebody noted on the entry, as it stands in a file name. */
async function byLabel(gameId: number, files: readonly DroppedFile[]): Promise<Map<string, MatchCandidate[]>> {
  const wanted = new Set(files.map((file) => namesOf(file)[1]));
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

/** A label as it may stand in the name of a file. */
export function labelAsName(text: string): string {
  return new SafePaths().clean(text.replaceAll(/[/\\]/g, '-')).path;
}
