'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useQueries, useQuery } from '@tanstack/react-query';
import { useState, type KeyboardEvent } from 'react';
import type { HitAnswer } from '../../server/shapes';
import { RunLine } from '../runs/RunLine';
import { call } from '../shared/api';
import { counted, fileName, folderOf, offset } from '../shared/format';
import { KindMark } from '../shared/marks';
import { isGoing, useRuns } from '../shared/queries';
import { Empty, FaultNote } from '../shared/states';
import { useTallList } from '../shared/use-tall-list';
import { isChangeable, TextInFile } from './TextInFile';

const ROW = 46;
const PAGE = 200;

interface Props {
  readonly gameId: number;
  readonly run: number;
  readonly chosen: number | undefined;
  readonly onHit: (hit: HitAnswer) => void;
}

/** What a search inside entries has found so far: the entry, the place, and what is around it. */
export function InsideHits({ gameId, run: id, chosen, onHit }: Props) {
  const { data: runs } = useRuns(gameId);
  const run = runs?.find((one) => one.id === id);
  const going = run !== undefined && isGoing(run);
  const page = (number: number) => ({
    queryKey: ['game', gameId, 'hits', id, number],
    queryFn: () => call('GET games/{game}/inside/{run}', { game: gameId, run: id, query: { offset: number * PAGE } }),
    refetchInterval: going ? 1000 : (false as const),
  });
  const first = useQuery(page(0));
  const total = first.data?.total ?? 0;
  const { box, onScroll, height, from, to, topOf, show } = useTallList(total, ROW);
  const numbers: number[] = [];
  for (let number = Math.floor(from / PAGE); number * PAGE < to; number++) if (number > 0) numbers.push(number);
  const more = useQueries({ queries: numbers.map(page) });
  const at = (index: number): HitAnswer | undefined => {
    const number = Math.floor(index / PAGE);
    const rows = number === 0 ? first.data?.rows : more[numbers.indexOf(number)]?.data?.rows;
    return rows?.[index - number * PAGE];
  };
  const [changing, setChanging] = useState<HitAnswer>();
  const chosenHit = chosen === undefined ? undefined : at(chosen);
  const onKeyDown = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1, Home: -Infinity, End: Infinity }[event.key];
    if (step === undefined || total === 0) return;
    event.preventDefault();
    const next = Math.max(0, Math.min(total - 1, (chosen ?? -1) + step));
    show(next);
    const hit = at(next);
    if (hit !== undefined) onHit(hit);
  };
  if (first.error !== null) return <FaultNote>{first.error.message}</FaultNote>;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box sx={{ mb: 1 }} role="status">
        {counted(total, 'place')} in {counted(first.data?.entries ?? 0, 'entry', 'entries')}
        {run !== undefined && <span className="dim"> for {run.title}</span>}
        {chosenHit !== undefined && isChangeable(chosenHit) && (
          <Button sx={{ ml: 1.5 }} onClick={() => setChanging(chosenHit)}>
            Change this text…
          </Button>
        )}
      </Box>
      {changing !== undefined && <TextInFile gameId={gameId} hit={changing} onClose={() => setChanging(undefined)} />}
      {run !== undefined && going && <RunLine run={run} label="Entries searched" />}
      {run !== undefined && !going && total === 0 && (
        <Empty title="Not found">None of the entries searched contains it.</Empty>
      )}
      <Box
        ref={box}
        onScroll={onScroll}
        role="listbox"
        aria-label="Places"
        tabIndex={0}
        onKeyDown={onKeyDown}
        sx={{ flex: 1, overflow: 'auto', border: total === 0 ? 0 : '1px solid var(--line)', borderRadius: 1 }}
      >
        <div style={{ height, position: 'relative' }}>
          {Array.from({ length: Math.max(0, to - from) }, (_, i) => {
            const hit = at(from + i);
            return (
              <Box
                key={from + i}
                role="option"
                aria-selected={chosen === from + i}
                aria-posinset={from + i + 1}
                aria-setsize={total}
                onClick={() => hit !== undefined && onHit(hit)}
                sx={{
                  position: 'absolute',
                  insetInline: 0,
                  height: ROW,
                  px: 1.5,
                  py: 0.5,
                  cursor: 'pointer',
                  borderBottom: '1px solid var(--line)',
                  background: chosen === from + i ? 'var(--teal2)' : 'var(--sheet)',
                }}
                style={{ top: topOf(from + i) }}
              >
                {hit !== undefined && <Hit hit={hit} />}
              </Box>
            );
          })}
        </div>
      </Box>
    </Box>
  );
}

const oneLine = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

function Hit({ hit }: { hit: HitAnswer }) {
  const { before, found, after } = aroundOf(hit);
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }} title={hit.path}>
        <KindMark kind={hit.kind} />
        <span>{visible(fileName(hit.path))}</span>
        <Box component="span" className="dim" sx={{ flex: 1, ...oneLine }}>
          {visible(folderOf(hit.path))}
        </Box>
        <span className="mono dim">
          {offset(hit.at)}, {hit.form}
        </span>
      </Box>
      <Box className="mono" sx={{ ...oneLine, whiteSpace: 'pre' }}>
        <span className="dim">{before}</span>
        <mark style={{ background: 'var(--brass2)', color: 'var(--ink)' }}>{found}</mark>
        <span className="dim">{after}</span>
      </Box>
    </>
  );
}

/** The surroundings as text where the hit is text, and as hex digits otherwise. */
function aroundOf({ around, lead, length, form }: HitAnswer): { before: string; found: string; after: string } {
  const bytes = Uint8Array.from(atob(around), (char) => char.charCodeAt(0));
  const wide = /^UTF-16/.test(form);
  const isText = wide || /^(UTF-8|WINDOWS|SHIFT)/.test(form);
  const text = new TextDecoder(isText ? form.toLowerCase() : 'utf-8');
  const say = (part: Uint8Array) =>
    isText
      ? // Control characters would break the line.
        text.decode(part).replace(/[\p{Cc}\ufffd]/gu, '·')
      : Array.from(part, (byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' ');
  // Letters of two bytes begin where the hit does.
  const begin = wide && lead % 2 === 1 ? 1 : 0;
  const gap = isText ? '' : ' ';
  return {
    before: say(bytes.subarray(begin, lead)) + gap,
    found: say(bytes.subarray(lead, lead + length)),
    after: gap + say(bytes.subarray(lead + length)),
  };
}
