import { Client } from 'pg';
import { Sequelize } from 'sequelize';
import { env } from '../env';
import { onePerProcess } from '../one-per-process';

/** The pool. A connection that breaks while the database restarts is replaced; queries are tried again. */
export function database(): Sequelize {
  return onePerProcess('database', () => {
    return new Sequelize(env().databaseUrl, {
      dialect: 'postgres',
      logging: false,
      define: { underscored: true, timestamps: false },
      pool: { max: 8, min: 0, idle: 10_000, acquire: 20_000 },
      retry: {
        max: 6,
        backoffBase: 200,
        match: [
          /ECONNREFUSED/,
          /ECONNRESET/,
          /terminating connection/,
          /Connection terminated/,
          /the database system is (starting up|shutting down)/,
        ],
      },
    });
  });
}

/** A connection of its own, for COPY and LISTEN, closed when `work` is done. */
export async function withConnection<T>(work: (client: Client) => Promise<T>): Promise<T> {
  const client = new Client({ connectionString: env().databaseUrl });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}
