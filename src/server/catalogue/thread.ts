/** The thread that holds the catalogues: one for each process, started when it is first asked. */
import type { Worker as WorkerThread } from 'node:worker_threads';
import { FaultError } from '../../core/faults';
import type { CatalogueOrder, CatalogueReply, CatalogueTask, CatalogueTasks } from '../../workers/catalogue-thread';
import { GameModel } from '../database';
import { onePerProcess } from '../one-per-process';
import { env } from '../env';
import { programFile } from '../programs';

interface Waiting {
  resolve(answer: unknown): void;
  reject(error: Error): void;
}

class CatalogueThread {
  private worker: WorkerThread | undefined;
  private readonly waiting = new Map<number, Waiting>();
  private last = 0;

  ask(order: Omit<CatalogueOrder, 'id'>): Promise<unknown> {
    const id = ++this.last;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject });
      (this.worker ??= this.start()).postMessage({ id, ...order } satisfies CatalogueOrder);
    });
  }

  private start(): WorkerThread {
    // The bundler takes over every Worker it sees, and cannot run this file: Node's own is asked for at run time.
    const { Worker } = process.getBuiltinModule('node:worker_threads');
    const worker: WorkerThread = new Worker(programFile('catalogue-thread'), {
      workerData: { databaseUrl: env().databaseUrl },
    });
    worker.unref();
    worker.on('message', ({ id, answer, fault, defect }: CatalogueReply) => {
      const waiting = this.waiting.get(id);
      this.waiting.delete(id);
      if (fault !== undefined) waiting?.reject(new FaultError(fault));
      else if (defect !== undefined) waiting?.reject(new Error(defect));
      else waiting?.resolve(answer);
    });
    const end = (error: Error) => {
      if (this.worker !== worker) return;
      this.worker = undefined;
      for (const { reject } of this.waiting.values()) reject(error);
      this.waiting.clear();
    };
    worker.on('error', end);
    worker.on('exit', (code) => end(new Error(`the thread of the catalogue ended with ${code}`)));
    return worker;
  }
}

/**
 * Asks the catalogue of a game, which is made again when entries have changed since.
 *
 * @throws FaultError `not-found` when there is no such game; what the catalogue itself says, such as of a search
 */
export async function askCatalogue<T extends CatalogueTask>(
  game: number,
  task: T,
  ask: CatalogueTasks[T]['ask'],
): Promise<CatalogueTasks[T]['answer']> {
  const row = await GameModel.findByPk(game, { attributes: ['catalogue'] });
  if (row === null) throw new FaultError({ code: 'not-found', what: 'there is no such game' });
  const thread = onePerProcess('catalogue-thread', () => new CatalogueThread());
  return (await thread.ask({ game, version: row.catalogue, task, ask })) as CatalogueTasks[T]['answer'];
}
