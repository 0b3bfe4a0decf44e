/** The languages a game offers, and a new one made of an old. */
import { posix } from 'node:path';
import { Op } from 'sequelize';
import { fileScratch } from '../../core/bytes/node';
import { FaultError } from '../../core/faults';
import { languageCodes, tableInLocale } from '../../core/forms/words';
import { collect } from '../../core/bytes';
import { entrySize, readEntry, volumeBytes } from '../../core/recipe';
import { supersedeChange } from '../changes';
import { ArchiveModel, ChangeModel, database } from '../database';
import { BESIDE_THE_GAME, isOfTheGame, pathInGameOf, settleNewFiles, withArchive } from '../games';
import { knownRecipes } from '../recipes';
import type { LanguageAnswer, LanguageOrder, RunAnswer } from '../shapes';
import { keepBlob, keepBytes, readBlob, type Blob } from '../storage';
import { localeOf, wordArchives } from './tables';

/** A few lines about a language are no more than this. */
const MOST_ABOUT_BYTES = 64 << 10;

/** What lists languages: an archive each of whose entries is one. */
interface Menu {
  readonly archive: ArchiveModel;
  readonly languages: readonly LanguageAnswer[];
  /** The path of a language's entry. */
  pathOf(code: string): string;
}

/** The languages the game's menu shows with the changes there are; none where no recipe says which these are. */
export async function listLanguages(gameId: number): Promise<readonly LanguageAnswer[]> {
  return (await menuOf(gameId))?.languages ?? [];
}

async function menuOf(gameId: number): Promise<Menu | undefined> {
  const recipes = (await knownRecipes(gameId))
    .filter(({ entries }) => entries.languages !== undefined)
    .map(({ id }) => id);
  const [archive] = await ArchiveModel.findAll({
    where: { gameId, state: 'open', recipe: recipes },
    order: [['position', 'DESC']],
  });
  if (archive === undefined) return undefined;
  const found = await withArchive(archive.id, async (opened) => {
    const codes = languageCodes(opened) ?? [];
    return Promise.all(
      codes.map(async (code, n) => ({
        code,
        path: await pathInGameOf(archive.id, n),
        about:
          entrySize(opened, n) > MOST_ABOUT_BYTES ? '' : new TextDecoder().decode(await collect(readEntry(opened, n))),
      })),
    );
  });
  const paths = found.map(({ path }) => path);
  const changes = await ChangeModel.findAll({
    where: { gameId, undone: false, [Op.or]: [{ path: paths }, { intoArchive: archive.path }] },
  });
  const changed = new Map(changes.map((change) => [change.path, change]));
  const languages: LanguageAnswer[] = [];
  for (const one of found) {
    const change = changed.get(one.path);
    if (change?.action === 'remove') continue;
    const about = change === undefined ? one.about : await textOf(change.blob);
    languages.push({ ...one, about, state: change === undefined ? 'there' : 'changed' });
  }
  const [first] = found;
  const [before, after] = first === undefined ? ['', ''] : aroundCode(first.path, first.code);
  for (const { path, blob, action, intoArchive } of changes)
    if (action === 'add' && intoArchive === archive.path)
      languages.push({
        ...{ code: path.slice(before.length, path.length - after.length), path, state: 'new' },
        about: await textOf(blob),
      });
  return { archive, languages, pathOf: (code) => `${before}${code}${after}` };
}

const textOf = async (blob: string) => (await readBlob(blob)).toString('utf8');

/** What is in a path before a language's code, and behind it: of several places the last. */
function aroundCode(path: string, code: string): readonly [before: string, after: string] {
  const at = path.lastIndexOf(code);
  return at < 0 ? [`${posix.dirname(path)}/`, posix.extname(path)] : [path.slice(0, at), path.slice(at + code.length)];
}

/**
 * Makes a language of an old one: its table of texts as a file of its own, and what the menu says of it. Both are one change, and
 * the texts are left to be translated.
 *
 * @returns the scan that reads the new table
 * @throws FaultError `conflict` when there is such a language, `cannot-add` when none is made of that table
 */
export async function addLanguage(gameId: number, { from, code, about }: LanguageOrder): Promise<RunAnswer> {
  const rows = await wordArchives(gameId);
  const old = rows.find(({ id }) => id === from);
  if (old === undefined) throw new FaultError({ code: 'not-found', what: 'there is no such table of texts' });
  const locales = await Promise.all(rows.map(localeOf));
  const menu = await menuOf(gameId);
  const path = pathOfTable(old.path, locales[rows.indexOf(old)]!, code);
  const there = locales.includes(code) || menu?.languages.some((language) => language.code === code) === true;
  if (there || (await isOfTheGame(gameId, path)))
    throw new FaultError({ code: 'conflict', what: `the game has texts in ${code} already`, file: path });
  const table = await tableBlob(old.id, code, path);
  const lines = menu === undefined ? undefined : await keepBytes(Buffer.from(about));
  await database().transaction(async (transaction) => {
    const add = async (file: string, blob: Blob, intoArchive: string, withId: number | null) => {
      await supersedeChange(gameId, file, transaction);
      const made = await ChangeModel.create(
        {
          ...{ gameId, path: file, action: 'add' as const, intoArchive, withId, kind: 'words' },
          ...{ blob: blob.sha256, size: blob.size, given: blob.sha256 },
          ...{ fileName: posix.basename(file), matchedBy: { code: 'new-language', locale: code, from: old.path } },
        },
        { transaction },
      );
      return made.id;
    };
    const main = await add(path, table, BESIDE_THE_GAME, null);
    if (menu !== undefined) await add(menu.pathOf(code), lines!, menu.archive.path, main);
  });
  return (await settleNewFiles(gameId))!;
}

function pathOfTable(path: string, locale: string, code: string): string {
  const name = posix.basename(path);
  const at = locale === '' ? -1 : name.lastIndexOf(locale);
  const fresh =
    at < 0
      ? `${posix.basename(path, posix.extname(path))}.${code}${posix.extname(path)}`
      : `${name.slice(0, at)}${code}${name.slice(at + locale.length)}`;
  return posix.join(posix.dirname(path), fresh);
}

async function tableBlob(archive: number, code: string, name: string): Promise<Blob> {
  const scratch = fileScratch();
  try {
    return await withArchive(archive, async (opened) => {
      const { volumes } = await tableInLocale(opened, code, name, scratch);
      if (volumes.length > 1)
        throw new FaultError({
          code: 'cannot-add',
          file: name,
          what: 'no new language is made of a table that lies in several files',
        });
      return keepBlob(volumeBytes(volumes[0]!));
    });
  } finally {
    await scratch.release();
  }
}
