import { SequelizeStorage, Umzug } from 'umzug';
import { database } from './connection';
import * as first from './migrations/001-first';
import * as recipes from './migrations/002-recipes';
import * as fits from './migrations/003-fits';
import * as open from './migrations/004-open';
import * as find from './migrations/005-find';
import * as forms from './migrations/006-forms';
import * as drops from './migrations/007-drops';
import * as putBack from './migrations/008-put-back';
import * as records from './migrations/009-records';
import * as newFiles from './migrations/010-new-files';
import * as veryManyChanges from './migrations/011-very-many-changes';
import * as storage from './migrations/012-storage';
import * as imports from './migrations/013-imports';
import * as buildChanges from './migrations/014-build-changes';
import * as archiveWays from './migrations/015-archive-ways';
import * as importFiles from './migrations/016-import-files';
import * as names from './migrations/017-names';
import * as countedChanges from './migrations/018-counted-changes';
import * as plainStates from './migrations/019-plain-states';
import * as notesAsCodes from './migrations/020-notes-as-codes';
import * as recipesOfGames from './migrations/021-recipes-of-games';

/** All of them, in order. */
export const MIGRATIONS = [
  first,
  recipes,
  fits,
  open,
  find,
  forms,
  drops,
  putBack,
  records,
  newFiles,
  veryManyChanges,
  storage,
  imports,
  buildChanges,
  archiveWays,
  importFiles,
  names,
  countedChanges,
  plainStates,
  notesAsCodes,
  recipesOfGames,
];

/** Brings the tables up to date; each migration is one transaction. Safe to call from several processes at once. */
export async function migrate(): Promise<string[]> {
  const sequelize = database();
  // One of several processes migrates, the others wait for it.
  const lock = 7_310_454;
  return sequelize.transaction(async (transaction) => {
    await sequelize.query('select pg_advisory_xact_lock(:lock)', { replacements: { lock }, transaction });
    const umzug = new Umzug({
      migrations: MIGRATIONS.map((migration) => ({
        name: migration.name,
        up: () => sequelize.transaction((inner) => sequelize.query(migration.up, { transaction: inner })),
      })),
      storage: new SequelizeStorage({ sequelize, tableName: 'migrations' }),
      logger: undefined,
    });
    return (await umzug.up()).map((done) => done.name);
  });
}
