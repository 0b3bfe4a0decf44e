'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MuiTab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import Typography from '@mui/material/Typography';
import { useState, type Ref } from 'react';
import type { EntryDetails } from '../../server/shapes';
import { formView } from '../forms';
import { entryUrl, subjectUrl } from '../shared/api';
import { folderOf } from '../shared/format';
import { KIND_WORDS, KindMark } from '../shared/marks';
import { FaultNote, Part } from '../shared/states';
import { CopyMenu } from './CopyMenu';
import { Links } from './Links';
import type { Which } from './CompareDialog';
import { EntryFacts } from './EntryFacts';
import { EntryFields } from './EntryFields';
import { LabelField } from './LabelField';
import { Preview } from '../preview/Preview';
import { BytesTools } from '../preview/BytesTools';

interface Props {
  readonly gameId: number;
  readonly entry: EntryDetails | undefined;
  readonly error: Error | null;
  /** A place in an entry to be shown in its bytes. */
  readonly reveal: Reveal | undefined;
  readonly onGo: (path: string) => void;
  readonly onCompare: (left: Which, right: Which) => void;
  readonly labelRef: Ref<HTMLInputElement>;
  /** The label is done: the focus may go back to the list. */
  readonly onLabelled: () => void;
  readonly onTray: () => void;
  readonly onReplace: () => void;
  readonly onInstead: () => void;
  /** The entry will be removed from the game. */
  readonly onRemove: () => void;
  readonly onDrop: (file: File) => void;
}

export interface Reveal {
  readonly archive: number;
  readonly n: number;
  readonly at: number;
  readonly length: number;
}

type Tab = 'view' | 'bytes' | 'fields';

/** One entry closely: what it is, where its bytes are, and what can be done with it. */
export function Inspector({
  gameId,
  entry,
  error,
  reveal,
  onGo,
  onCompare,
  labelRef,
  onLabelled,
  onTray,
  onReplace,
  onInstead,
  onRemove,
  onDrop,
}: Props) {
  const [tab, setTab] = useState<Tab>('view');
  const [large, setLarge] = useState(false);
  const [seen, setSeen] = useState<Reveal>();
  // A new place to show opens the bytes, once.
  if (reveal !== seen) {
    setSeen(reveal);
    if (reveal !== undefined) setTab('bytes');
  }
  const first =
    reveal !== undefined && entry !== undefined && reveal.archive === entry.archive && reveal.n === entry.n
      ? reveal
      : undefined;
  const form = entry && formView(entry.facts?.form ?? entry.kind);
  return (
    <Box
      component="aside"
      aria-label="The selected entry"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        const [file] = event.dataTransfer.files;
        if (file !== undefined) onDrop(file);
      }}
      sx={{
        width: large ? 640 : 328,
        flex: 'none',
        overflow: 'auto',
        background: 'var(--sheet)',
        borderLeft: '1px solid var(--line)',
        p: 1.75,
      }}
    >
      {error !== null && <FaultNote>{error.message}</FaultNote>}
      {entry === undefined ? (
        error === null && (
          <Box className="dim">Select an entry to see it. The arrow keys move, T adds it to the tray.</Box>
        )
      ) : (
        <>
          <Box sx={{ display: 'flex', alignItems: 'flex-start', gap: 1 }}>
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
                {visible(entry.name)}
              </Typography>
              <Box className="mono dim" sx={{ overflowWrap: 'anywhere' }}>
                {folderOf(entry.path)} <CopyMenu entry={entry} />
              </Box>
            </Box>
            <Box
              sx={{
                display: 'inline-flex',
                alignItems: 'center',
                gap: 0.6,
                border: '1px solid var(--line)',
                borderRadius: 7,
                px: 1.1,
                py: 0.3,
                fontSize: 12,
              }}
            >
              <KindMark kind={entry.kind} /> {KIND_WORDS[entry.kind].one}
            </Box>
          </Box>
          <LabelField key={entry.path} gameId={gameId} entry={entry} fieldRef={labelRef} onDone={onLabelled} />
          <Box sx={{ display: 'flex', my: 1, borderBottom: '1px solid var(--line)' }}>
            <Tabs value={tab} onChange={(_, next: Tab) => setTab(next)} aria-label="View" sx={{ flex: 1 }}>
              <MuiTab value="view" label="View" />
              <MuiTab value="bytes" label="Bytes" />
              <MuiTab value="fields" label="Fields" />
            </Tabs>
            <Button variant="inline" sx={{ color: 'var(--dim)' }} onClick={() => setLarge(!large)}>
              {large ? 'Smaller' : 'Larger'}
            </Button>
          </Box>
          {tab === 'view' && (
            <Preview
              key={`${entry.archive}.${entry.n}`}
              kind={entry.kind}
              mime={entry.mime}
              name={entry.path}
              size={entry.size}
              facts={entry.facts}
              subject={subjectUrl(gameId, { entry })}
              trouble={entry.trouble}
              large={large}
            />
          )}
          {tab === 'bytes' && (
            <BytesTools
              key={`${entry.archive}.${entry.n} ${first?.at}`}
              url={entryUrl(gameId, entry, 'bytes')}
              entry={{ game: gameId, archive: entry.archive, n: entry.n }}
              size={entry.size}
              height={large ? 460 : 270}
              first={first}
            />
          )}
          {tab === 'fields' && <EntryFields entry={entry} />}
          <EntryFacts entry={entry} onGo={onGo} onCompare={onCompare} />
          <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap', mb: 2 }}>
            <Button variant="contained" component="a" href={entryUrl(gameId, entry, 'bytes')} download={entry.name}>
              Take out
            </Button>
            {form?.TakeOut !== undefined && <form.TakeOut gameId={gameId} entry={entry} />}
            <Button onClick={onReplace}>Replace…</Button>
            <Button onClick={onInstead}>Replace with another entry…</Button>
            {entry.role === 'wins' && entry.removable && <Button onClick={onRemove}>Remove from the game</Button>}
            <Button onClick={onTray}>{entry.inTray ? 'Remove from tray' : 'Add to tray'}</Button>
          </Box>
          <Links gameId={gameId} path={entry.path} onGo={onGo} />
          {entry.expects.length > 0 && (
            <Part title="What the game expects back">
              {entry.expects.map((line) => (
                <Box key={line}>{line}</Box>
              ))}
            </Part>
          )}
        </>
      )}
    </Box>
  );
}
