'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import Link from 'next/link';
import { useRouter, useSearchParams } from 'next/navigation';
import { useRef, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import type { ChangeAnswer } from '../../server/shapes';
import { api, entryUrl } from '../shared/api';
import { fileName, folderOf, size } from '../shared/format';
import { KindMark } from '../shared/marks';
import { useAct, useArchive, useChanges, useGame, useWinner } from '../shared/queries';
import { Empty, FaultNote, Part } from '../shared/states';
import { StripFoot } from '../shell/Strip';
import { Comparison } from '../preview/Comparison';
import { useReplace } from './use-replace';

interface Refusal {
  readonly file: string;
  readonly why: string;
}

/** Station Change: what is changed, seen beside what the game has. */
export function ChangeStation({ gameId }: { gameId: number }) {
  const { data: changes } = useChanges(gameId);
  const { data: game } = useGame(gameId);
  const params = useSearchParams();
  const router = useRouter();
  const [refusals, setRefusals] = useState<readonly Refusal[]>([]);
  const [done, setDone] = useState<{ path: string; lines: readonly string[] }>();
  const replace = useReplace(gameId, { showsFault: true });
  const again = useRef<HTMLInputElement>(null);
  const path = params.get('path') ?? changes?.find((change) => !change.undone)?.path ?? changes?.[0]?.path;
  const change = changes?.find((one) => one.path === path);
  const { data: entry } = useWinner(gameId, change?.path);
  const select = (one: string) =>
    router.replace(`/games/${gameId}/change?path=${encodeURIComponent(one)}`, { scroll: false });
  const take = async (files: readonly File[], forPath?: string) => {
    const refused: Refusal[] = [];
    for (const file of files) {
      try {
        const result = await replace.mutateAsync({ file, ...(forPath === undefined ? {} : { path: forPath }) });
        select(result.change.path);
        setDone({ path: result.change.path, lines: result.done });
      } catch (error) {
        refused.push({ file: file.name, why: error instanceof Error ? error.message : String(error) });
      }
    }
    setRefusals(refused);
  };
  const { getRootProps, getInputProps, isDragActive } = useDropzone({ onDrop: (files) => void take(files) });
  const undo = useAct(gameId, (one: ChangeAnswer) =>
    api(`games/${gameId}/changes/${one.id}`, { method: 'PATCH', body: { undone: !one.undone } }),
  );
  const archive = useArchive(game, entry?.archive);
  if (changes === undefined || game === undefined) return null;
  return (
    <>
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
        <Box
          component="aside"
          aria-label="Changes"
          sx={{
            width: 330,
            flex: 'none',
            overflow: 'auto',
            background: 'var(--sheet)',
            borderRight: '1px solid var(--line)',
          }}
        >
          <Box sx={{ p: 1.75 }}>
            <Typography variant="h1" sx={{ mb: 1.5 }}>
              Changes
            </Typography>
            <Box
              {...getRootProps()}
              sx={{
                border: '2px dashed',
                borderColor: isDragActive ? 'var(--teal)' : 'var(--line)',
                borderRadius: 1,
                p: 1.75,
                textAlign: 'center',
                cursor: 'pointer',
                background: isDragActive ? 'var(--teal2)' : undefined,
              }}
              className="dim"
            >
              <input {...getInputProps()} aria-label="Edited files" data-testid="drop-files" />
              Drop edited files here, or click to choose them. They find their places by name.
            </Box>
            {refusals.map((refusal) => (
              <Box key={refusal.file} sx={{ mt: 1 }}>
                <FaultNote>{refusal.why}</FaultNote>
              </Box>
            ))}
          </Box>
          <Box role="list">
            {changes.map((one) => (
              <Box
                key={one.id}
                role="listitem"
                sx={{
                  display: 'flex',
                  alignItems: 'center',
                  pr: 1,
                  background: one.id === change?.id ? 'var(--teal2)' : undefined,
                  boxShadow: one.id === change?.id ? 'inset 3px 0 0 var(--teal)' : undefined,
                }}
              >
                <Box
                  component="button"
                  type="button"
                  onClick={() => select(one.path)}
                  sx={{
                    all: 'unset',
                    boxSizing: 'border-box',
                    flex: 1,
                    minWidth: 0,
                    display: 'flex',
                    gap: 1.25,
                    alignItems: 'center',
                    px: 2,
                    py: 1,
                    cursor: 'pointer',
                    opacity: one.undone ? 0.75 : 1,
                    '&:focus-visible': { outline: '2px solid var(--teal)', outlineOffset: -2 },
                  }}
                >
                  <KindMark kind={one.kind} label />
                  <Box
                    sx={{
                      minWidth: 0,
                      '& > *': { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
                    }}
                    title={one.path}
                  >
                    <div>{fileName(one.path)}</div>
                    <div className="dim">{one.undone ? 'undone' : `from ${one.fileName}`}</div>
                  </Box>
                </Box>
                {one.undone ? (
                  <Button variant="text" onClick={() => undo.mutate(one)}>
                    Bring it back
                  </Button>
                ) : (
                  <b style={{ color: 'var(--teal)' }}>fits</b>
                )}
              </Box>
            ))}
          </Box>
        </Box>
        {change === undefined ? (
          <Box sx={{ flex: 1 }}>
            <Empty
              title="Nothing is changed yet"
              actions={
                <Button component={Link} href={`/games/${gameId}/find`}>
                  Find an entry
                </Button>
              }
            >
              Take something out, edit it with the program you like, and drop it here.
            </Empty>
          </Box>
        ) : (
          <>
            <Box sx={{ flex: 1, minWidth: 0, overflow: 'auto', p: 2.25 }}>
              <Box sx={{ mb: 1.5 }}>
                <Typography variant="h1" component="h2" sx={{ display: 'inline', mr: 1, overflowWrap: 'anywhere' }}>
                  {fileName(change.path)}
                </Typography>
                <span className="mono dim">{folderOf(change.path)}</span>
              </Box>
              {entry !== undefined && (
                <Comparison
                  kind={entry.kind}
                  name={entry.name}
                  before={{
                    label: 'Before',
                    url: entryUrl(gameId, entry, 'bytes'),
                    size: entry.size,
                    packed: change.packed,
                    told: change.told,
                  }}
                  after={{
                    label: 'After, as the game will have it',
                    url: `/api/games/${gameId}/changes/${change.id}/bytes`,
                    size: change.size,
                    packed: change.packed,
                    told: change.told,
                  }}
                />
              )}
              <Box sx={{ display: 'flex', gap: 1, mt: 1.75 }}>
                <Button onClick={() => undo.mutate(change)}>{change.undone ? 'Bring it back' : 'Undo'}</Button>
                <Button onClick={() => again.current?.click()}>Change it again…</Button>
                <input
                  ref={again}
                  type="file"
                  hidden
                  aria-label="The file for this entry"
                  onChange={(event) => {
                    void take([...(event.target.files ?? [])], change.path);
                    event.target.value = '';
                  }}
                />
              </Box>
            </Box>
            <Box
              component="aside"
              aria-label="What the game expects back"
              sx={{
                width: 300,
                flex: 'none',
                overflow: 'auto',
                background: 'var(--sheet)',
                borderLeft: '1px solid var(--line)',
                p: 1.75,
              }}
            >
              <Typography variant="h2" sx={{ mb: 1 }}>
                What the game expects back
              </Typography>
              {entry?.expects.map((line) => (
                <Box key={line} sx={{ display: 'flex', gap: 1.25, mb: 1 }}>
                  <span style={{ color: 'var(--teal)' }}>✓</span>
                  <span>{line}</span>
                </Box>
              ))}
              {done !== undefined && done.path === change.path && done.lines.length > 0 && (
                <Part title="Made to fit">
                  {done.lines.map((line) => (
                    <div key={line}>{line}</div>
                  ))}
                </Part>
              )}
              {change.beside.length > 0 && (
                <Part title="Changes with it">
                  {change.beside.map((one) => (
                    <Box key={one} className="mono" sx={{ overflowWrap: 'anywhere' }}>
                      {fileName(one)}
                    </Box>
                  ))}
                </Part>
              )}
              <Part title="Size">
                {entry === undefined ? '' : `${size(entry.size)} before, ${size(change.size)} after`}
              </Part>
              <Button variant="contained" component={Link} href={`/games/${gameId}/put-back`}>
                Put back…
              </Button>
            </Box>
          </>
        )}
      </Box>
      {archive !== undefined && entry !== undefined && change !== undefined && (
        <StripFoot
          title={archive.path}
          note="where this change lies"
          legend={
            <span>
              unchanged · <b style={{ color: 'var(--brass)' }}>changed</b> · index
            </span>
          }
          bands={archive.bands}
          size={archive.size}
          marked={{ at: entry.at, length: entry.stored }}
        />
      )}
    </>
  );
}
