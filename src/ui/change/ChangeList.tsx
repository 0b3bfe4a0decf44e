'use client';
import { sayNote, type Note } from '../../core/notes';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, type KeyboardEvent } from 'react';
import type { IncomingFile, IncomingFiles, IncomingFileState, ChangeAnswer } from '../../server/shapes';
import { count, counted, fileName } from '../shared/format';
import { useTallList } from '../shared/use-tall-list';
import { CHANGE_ROW, ChangeRow } from './ChangeRow';

export type Chosen = { readonly change: number } | { readonly incomingFile: number };

const WAITS: Readonly<
  Record<IncomingFileState, { readonly word: string; readonly tone: string; readonly about: string }>
> = {
  waiting: { word: 'waits', tone: 'var(--dim)', about: 'on its way' },
  ambiguous: { word: 'several', tone: 'var(--brass)', about: 'several entries match' },
  numbered: { word: 'numbered', tone: 'var(--brass)', about: 'a number: how is it counted?' },
  unmatched: { word: 'no match', tone: 'var(--brass)', about: 'no matching entry' },
  needsOptions: { word: 'options', tone: 'var(--brass)', about: 'a film: choose how it is converted' },
  same: { word: 'the same', tone: 'var(--dim)', about: 'the game has the same' },
  refused: { word: 'does not fit', tone: 'var(--brick)', about: '' },
};

/** What waits for a person, then the changes; any number of them, walked with the arrow keys. */
export function ChangeList({
  changes,
  incomingFiles,
  chosen,
  follow,
  onChoose,
  onBack,
  onSkipAll,
  more,
}: {
  changes: readonly ChangeAnswer[];
  incomingFiles: IncomingFiles;
  chosen: Chosen | undefined;
  /** Someone chose it: it comes into view. */
  follow: boolean;
  onChoose: (one: Chosen) => void;
  onBack: (change: ChangeAnswer) => void;
  onSkipAll: () => void;
  /** Changes that are too many to be listed. */
  more: number;
}) {
  const rows: readonly (IncomingFile | ChangeAnswer)[] = [...incomingFiles.rows, ...changes];
  const at = rows.findIndex((row) =>
    'state' in row
      ? chosen !== undefined && 'incomingFile' in chosen && row.id === chosen.incomingFile
      : chosen !== undefined && 'change' in chosen && row.id === chosen.change,
  );
  const { box, onScroll, height, from, to, topOf, show } = useTallList(rows.length, CHANGE_ROW);
  useEffect(() => {
    if (at >= 0 && follow) show(at);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only another choice moves the list
  }, [at]);
  const walk = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const next = step === undefined ? undefined : rows[at + step];
    if (next === undefined) return;
    event.preventDefault();
    onChoose('state' in next ? { incomingFile: next.id } : { change: next.id });
  };
  return (
    <>
      {incomingFiles.total > 0 && (
        <Box
          sx={{
            display: 'flex',
            alignItems: 'center',
            px: 2,
            py: 0.5,
            borderBlock: '1px solid var(--line)',
            background: 'var(--brass2)',
          }}
        >
          <Box sx={{ flex: 1 }}>
            {counted(incomingFiles.total, 'file needs a decision', 'files need a decision')}
            {incomingFiles.total > incomingFiles.rows.length &&
              `; the first ${count(incomingFiles.rows.length)} are listed`}
          </Box>
          <Button variant="inline" onClick={onSkipAll}>
            Skip all
          </Button>
        </Box>
      )}
      <Box
        ref={box}
        onScroll={onScroll}
        onKeyDown={walk}
        role="list"
        aria-label="What is changed"
        sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}
      >
        <div style={{ height: height, position: 'relative' }}>
          {rows.slice(from, to).map((row, i) => (
            <Box
              key={'state' in row ? `a${row.id}` : row.id}
              sx={{ position: 'absolute', insetInline: 0, top: topOf(from + i) }}
            >
              {'state' in row ? (
                <ChangeRow
                  kind={row.kind}
                  title={fileName(row.name)}
                  about={
                    row.path === null ? WAITS[row.state].about : `for ${fileName(row.path)}${because(row.matchedBy)}`
                  }
                  hint={row.name}
                  state={<b style={{ color: WAITS[row.state].tone, whiteSpace: 'nowrap' }}>{WAITS[row.state].word}</b>}
                  chosen={from + i === at}
                  onChoose={() => onChoose({ incomingFile: row.id })}
                />
              ) : (
                <ChangeRow
                  kind={row.kind}
                  title={row.label ?? fileName(row.path)}
                  about={aboutChange(row)}
                  hint={row.path}
                  faint={row.undone}
                  chosen={from + i === at}
                  onChoose={() => onChoose({ change: row.id })}
                  state={
                    row.undone ? (
                      <Button variant="inline" onClick={() => onBack(row)}>
                        Bring it back
                      </Button>
                    ) : (
                      <b style={{ color: STATUS[row.status].tone, whiteSpace: 'nowrap' }}>{STATUS[row.status].word}</b>
                    )
                  }
                />
              )}
            </Box>
          ))}
        </div>
      </Box>
      {more > 0 && (
        <Box className="dim" sx={{ px: 1.75, py: 0.75, borderTop: '1px solid var(--line)' }}>
          and {counted(more, 'older change', 'older changes')}; texts are all under Words
        </Box>
      )}
    </>
  );
}

/** The status of a change against the game as it is now. */
const STATUS = {
  fits: { word: 'fits', tone: 'var(--teal)' },
  changed: { word: 'game changed it', tone: 'var(--brass)' },
  gone: { word: 'gone from the game', tone: 'var(--brick)' },
  there: { word: 'is there now', tone: 'var(--brick)' },
} as const;

function aboutChange({ undone, fileName: file, matchedBy, action }: ChangeAnswer): string {
  if (undone) return 'undone';
  if (action !== 'replace') return action === 'add' ? `new, from ${file}` : 'will be removed';
  return `from ${file}${because(matchedBy)}`;
}

const because = (matchedBy: Note | null): string => (matchedBy === null ? '' : `, ${sayNote(matchedBy)}`);
