/** What a game, or a part of it, is made of, in words. */
import { askCatalogue, catalogueQuery } from '../catalogue';
import { ArchiveModel } from '../database';
import type { EntryPlace, OverviewAnswer, ShareAnswer } from '../shapes';

export async function overviewOf(gameId: number, place: EntryPlace): Promise<OverviewAnswer> {
  const query = await catalogueQuery(gameId, place);
  const { methods, archives, ...overview } = await askCatalogue(gameId, 'overview', { query });
  const rows = await ArchiveModel.findAll({ where: { gameId } });
  const known = new Map(rows.map((row) => [row.id, row]));
  const byMethod = new Map<string, ShareAnswer>();
  for (const { archive, name, count, bytes, stored } of methods) {
    const words = known.get(archive)?.methods[name] ?? `unknown (${name})`;
    const so = byMethod.get(words) ?? { name: words, count: 0, bytes: 0, stored: 0 };
    byMethod.set(words, {
      name: words,
      count: so.count + count,
      bytes: so.bytes + bytes,
      stored: so.stored + stored,
    });
  }
  return {
    ...overview,
    archives: archives.map((share) => ({
      ...share,
      name: known.get(share.archive)?.path ?? 'an archive that is gone',
    })),
    methods: [...byMethod.values()].sort((a, b) => b.bytes - a.bytes),
    unexplained: rows
      .filter(({ id }) => archives.some(({ archive }) => archive === id))
      .flatMap(({ id, path, proof }) =>
        proof != null && proof.bytes.explained < proof.bytes.total
          ? [{ archive: id, path, bytes: proof.bytes.total - proof.bytes.explained }]
          : [],
      )
      .sort((a, b) => b.bytes - a.bytes),
  };
}
