'use client';
import { useEffect, useRef, useState } from 'react';
import type { RunAnswer } from '../../server/shapes';
import { api } from '../shared/api';
import { isGoing, useAct, useRuns } from '../shared/queries';

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
  readonly sending: { readonly sent: number; readonly total: number } | undefined;
  /** Files that did not even arrive, in words. */
  readonly refused: readonly string[];
  readonly run: RunAnswer | undefined;
}

const AT_ONCE = 3;

/** Sends files, lets a run make changes of them, and tells when that begins and when it has ended. */
export function useBringIn(gameId: number, onEnded: (run: RunAnswer) => void, onBegin?: () => void): BringIn {
  const [sending, setSending] = useState<BringIn['sending']>();
  const [refused, setRefused] = useState<readonly string[]>([]);
  const [runId, setRunId] = useState<number>();
  const { data: runs } = useRuns(gameId);
  const run = runs?.find(({ id }) => id === runId);
  const told = useRef<number>(undefined);
  useEffect(() => {
    if (run === undefined || isGoing(run) || told.current === run.id) return;
    told.current = run.id;
    onEnded(run);
  }, [run, onEnded]);
  const start = useAct(gameId, (drop: number) =>
    api<RunAnswer>(`games/${gameId}/drops/${drop}/bring-in`, { method: 'POST' }),
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
    const query = new URLSearchParams({ name: droppedName(file), ...(path === undefined ? {} : { path }) });
    await api(`games/${gameId}/drops/${drop}/files?${query.toString()}`, { raw: file });
  };
  const bring = async (files: readonly Brought[]) => {
    if (files.length === 0) return;
    onBegin?.();
    setRefused([]);
    setSending({ sent: 0, total: files.length });
    const failed: string[] = [];
    try {
      const { id } = await api<{ id: number }>(`games/${gameId}/drops`, { method: 'POST' });
      const waiting = files.values();
      let sent = 0;
      const lane = async () => {
        for (const one of waiting) {
          await send(id, one).catch((error: unknown) => failed.push(messageOf(error)));
          setSending({ sent: ++sent, total: files.length });
        }
      };
      await Promise.all(Array.from({ length: AT_ONCE }, lane));
      if (failed.length < files.length) await startRun(id);
    } catch (error) {
      failed.push(messageOf(error));
    } finally {
      setSending(undefined);
      setRefused(failed);
    }
  };
  return { bring, goOn, watch, sending, refused, run };
}

const messageOf = (error: unknown) => (error instanceof Error ? error.message : String(error));

/** With its folders, where a folder was dropped or chosen. */
function droppedName(file: File & { readonly path?: string }): string {
  const given = [file.path, file.webkitRelativePath].find((one) => one?.includes('/') === true);
  return (given ?? file.name).replace(/^[./]+/, '') || 'file';
}
