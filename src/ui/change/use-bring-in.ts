'use client';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import type { RunAnswer, UnfinishedImport } from '../../server/shapes';
import { ApiFault, call } from '../shared/api';
import { isGoing, useGameMutation, useRuns } from '../shared/queries';

export interface Brought {
  readonly file: File;
  /** The entry it is for; without it, the file finds its place by itself. */
  readonly path?: string;
}

export interface BringIn {
  bring(files: readonly Brought[]): Promise<void>;
  /** Starts the run of a drop again, after a person has settled something. */
  goOn(drop: number): void;
  /** Looks at a run that was started elsewhere as if it were its own. */
  watch(run: RunAnswer): void;
  /** Sends what is missing of an import that was cut off; once all is there, its run starts. */
  finish(unfinished: UnfinishedImport, files: readonly File[]): Promise<void>;
  /** The import that is being sent. */
  readonly drop: number | undefined;
  readonly sending: { readonly sent: number; readonly total: number } | undefined;
  /** Files that did not even arrive, in words. */
  readonly refused: readonly string[];
  readonly run: RunAnswer | undefined;
}

const AT_ONCE = 3;

/** Sends files, lets a run make changes of them, and says when that begins and when it has ended. */
export function useBringIn(gameId: number, onEnded: (run: RunAnswer) => void, onBegin?: () => void): BringIn {
  const [sending, setSending] = useState<BringIn['sending']>();
  const [refused, setRefused] = useState<readonly string[]>([]);
  const [drop, setDrop] = useState<number>();
  const client = useQueryClient();
  const [runId, setRunId] = useState<number>();
  const { data: runs } = useRuns(gameId);
  const run = runs?.find(({ id }) => id === runId);
  const reported = useRef<number>(undefined);
  useEffect(() => {
    if (run === undefined || isGoing(run) || reported.current === run.id) return;
    reported.current = run.id;
    onEnded(run);
  }, [run, onEnded]);
  const start = useGameMutation(gameId, (drop: number) =>
    call('POST games/{game}/drops/{drop}/bring-in', { game: gameId, drop }),
  );
  const startRun = async (drop: number) => setRunId((await start.mutateAsync(drop)).id);
  const goOn = (drop: number) => {
    onBegin?.();
    void startRun(drop).catch(() => {});
  };
  const watch = ({ id }: RunAnswer) => {
    onBegin?.();
    setRunId(id);
  };
  const send = async (drop: number, { file, path }: Brought) => {
    const query = { name: droppedName(file), path };
    await call('POST games/{game}/drops/{drop}/files', { game: gameId, drop, query, send: file });
  };
  /** @param begin gives the import they go into @param isWhole nothing is missing once these have come */
  const sendAll = async (files: readonly Brought[], begin: () => Promise<number>, isWhole: boolean) => {
    onBegin?.();
    setRefused([]);
    setSending({ sent: 0, total: files.length });
    const failed: string[] = [];
    try {
      const drop = await begin();
      setDrop(drop);
      const waiting = files.values();
      let sent = 0;
      // What the server could not be reached for may come later; what it refused does not.
      let cutOff = false;
      const lane = async () => {
        for (const one of waiting) {
          await send(drop, one).catch((error: unknown) => {
            cutOff ||= !(error instanceof ApiFault) || error.status >= 500;
            failed.push(`${droppedName(one.file)}: ${messageOf(error)}`);
          });
          setSending({ sent: ++sent, total: files.length });
        }
      };
      await Promise.all(Array.from({ length: AT_ONCE }, lane));
      if (isWhole && !cutOff && failed.length < files.length) await startRun(drop);
    } catch (error) {
      failed.push(messageOf(error));
    } finally {
      setSending(undefined);
      setDrop(undefined);
      setRefused(failed);
      void client.invalidateQueries({ queryKey: ['game', gameId, 'unfinished'] });
    }
  };
  const bring = async (files: readonly Brought[]) => {
    if (files.length === 0) return;
    const order = files.map(({ file, path }) => ({ name: droppedName(file), size: file.size, path: path ?? null }));
    const begin = () => call('POST games/{game}/drops', { game: gameId, body: { files: order } });
    await sendAll(files, async () => (await begin()).id, true);
  };
  const finish = async ({ id, missing, total, received }: UnfinishedImport, files: readonly File[]) => {
    const found = filesFor(missing, files);
    if (found.length === 0) {
      setRefused(['None of these files is missing.']);
      return;
    }
    await sendAll(found, () => Promise.resolve(id), received + found.length === total);
  };
  return { bring, finish, goOn, watch, sending, drop, refused, run };
}

/** Those of some files that are missing, by their names, with or without the folders they lie in, and by their sizes. */
function filesFor(missing: UnfinishedImport['missing'], files: readonly File[]): Brought[] {
  const left = [...files];
  return missing.flatMap(({ name, size, path }) => {
    const isIt = (file: File) => droppedName(file) === name || (baseOf(name) === file.name && file.size === size);
    const at = left.findIndex(isIt);
    if (at < 0) return [];
    const [file] = left.splice(at, 1);
    // It is ticked off by the name it was announced under.
    return [{ file: renamed(file!, name), ...(path == null ? {} : { path }) }];
  });
}

const baseOf = (name: string) => name.slice(name.lastIndexOf('/') + 1);

function renamed(file: File, name: string): File {
  return droppedName(file) === name ? file : Object.assign(new File([file], baseOf(name)), { path: name });
}

const messageOf = (error: unknown) => (error instanceof Error ? error.message : String(error));

/** With its folders, where a folder was dropped or chosen. */
function droppedName(file: File & { readonly path?: string }): string {
  const given = [file.path, file.webkitRelativePath].find((one) => one?.includes('/') === true);
  return (given ?? file.name).replace(/^[./]+/, '') || 'file';
}
