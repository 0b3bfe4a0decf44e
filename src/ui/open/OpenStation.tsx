'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import Link from 'next/link';
import { useRef } from 'react';
import type { ArchiveAnswer, RunAnswer } from '../../server/shapes';
import { api } from '../shared/api';
import { count, counted, keyWords, size, when } from '../shared/format';
import { Latch } from '../shared/marks';
import { useAct, useGame, useRuns } from '../shared/queries';
import { Empty, FaultNote } from '../shared/states';
import { StripBar } from '../shell/Strip';
import { KeysPanel } from './KeysPanel';

/** Station Open: the archives of the folder, their state, and the keys. */
export function OpenStation({ gameId }: { gameId: number }) {
  const { data: game } = useGame(gameId);
  const { data: runs } = useRuns(gameId);
  const keyField = useRef<HTMLInputElement>(null);
  const scan = useAct(gameId, () => api<RunAnswer>(`games/${gameId}/scan`, { method: 'POST' }));
  const lastScan = runs?.find((run) => run.kind === 'scan');
  const scanning = lastScan?.state === 'working' || lastScan?.state === 'waiting';
  if (game === undefined) return null;
  const archives = game.archives.filter((archive) => archive.state !== 'unknown');
  const unknown = game.archives.filter((archive) => archive.state === 'unknown');
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
      <Box sx={{ flex: 1, overflow: 'auto', p: 2.25, minWidth: 0 }}>
        <Box sx={{ display: 'flex', alignItems: 'flex-end', mb: 2, gap: 2 }}>
          <Box sx={{ flex: 1, minWidth: 0 }}>
            <Typography variant="h1">Archives in the order the game loads them</Typography>
            <Box className="dim" sx={{ overflowWrap: 'anywhere' }}>
              {game.folder}
              {game.scannedAt !== null && ` · scanned ${when(game.scannedAt)}`}
            </Box>
          </Box>
          <Button
            variant={archives.length === 0 ? 'contained' : 'outlined'}
            onClick={() => scan.mutate(undefined)}
            disabled={scanning}
          >
            {scanning ? 'Scanning…' : 'Scan the folder again'}
          </Button>
        </Box>
        {scanning && (
          <LinearProgress
            aria-label="Scanning"
            sx={{ mb: 1.5, height: 4, borderRadius: 2 }}
            variant={lastScan.total > 0 ? 'determinate' : 'indeterminate'}
            value={lastScan.total > 0 ? (100 * lastScan.done) / lastScan.total : 0}
          />
        )}
        {lastScan?.state === 'failed' && (
          <Box sx={{ mb: 1.5 }}>
            <FaultNote>{lastScan.fault?.sentence}</FaultNote>
          </Box>
        )}
        {archives.map((archive) => (
          <ArchiveRow key={archive.id} gameId={gameId} archive={archive} onUnlock={() => keyField.current?.focus()} />
        ))}
        {archives.length === 0 && !scanning && (
          <Empty
            title="No archive that a recipe knows"
            actions={
              <Button component={Link} href="/">
                Choose another folder
              </Button>
            }
          >
            {unknown.length > 0
              ? `There ${unknown.length === 1 ? 'is' : 'are'} ${counted(unknown.length, 'file')}, but no recipe fits.`
              : 'The folder holds no files.'}
          </Empty>
        )}
        {unknown.length > 0 && (
          <Box sx={{ mt: 2 }}>
            <Typography variant="h3" component="h2" sx={{ mb: 0.75 }}>
              Files no recipe knows
            </Typography>
            {unknown.map((file) => (
              <Box key={file.id} sx={{ display: 'flex', alignItems: 'center', gap: 1.5, py: 0.5, px: 2 }}>
                <Latch state="unknown" />
                <span>{file.path}</span>
                <span className="dim">{size(file.size)}</span>
              </Box>
            ))}
          </Box>
        )}
      </Box>
      <KeysPanel game={game} runs={runs ?? []} fieldRef={keyField} />
    </Box>
  );
}

function ArchiveRow({ gameId, archive, onUnlock }: { gameId: number; archive: ArchiveAnswer; onUnlock: () => void }) {
  const { proof } = archive;
  const trouble = archive.state === 'damaged' ? archive.fault?.sentence : proof?.firsts[0];
  return (
    <Box
      data-testid={`archive ${archive.path}`}
      sx={{
        display: 'grid',
        gridTemplateColumns: '34px minmax(110px, 140px) minmax(180px, 1fr) 76px',
        alignItems: 'center',
        columnGap: 1.75,
        border: '1px solid var(--line)',
        borderRadius: 1.5,
        background: 'var(--sheet)',
        px: 2,
        py: 1.1,
        mb: 1,
      }}
    >
      <Latch state={archive.state} />
      <Box sx={{ minWidth: 0 }}>
        <Box sx={{ fontWeight: 700, overflow: 'hidden', textOverflow: 'ellipsis' }} title={archive.path}>
          {archive.path}
        </Box>
        <span className="dim">{archive.title ?? 'No recipe knows it'}</span>
      </Box>
      <Box sx={{ minWidth: 0 }}>
        <Box sx={{ mb: 0.5 }}>
          {archive.state === 'locked'
            ? `Locked. Needs ${Object.entries(archive.slots)
                .map(([slot, kind]) => `${keyWords(kind)} for “${slot}”`)
                .join(' and ')}.`
            : archive.state === 'unsure'
              ? `${count(archive.fits.length)} recipes fit. Which one is it?`
              : `${counted(archive.entryCount, 'entry', 'entries')} · ${size(archive.size)}${archive.volumes.length > 1 ? ` in ${count(archive.volumes.length)} files` : ''}`}
        </Box>
        <StripBar bands={archive.bands} size={archive.size} label={`The bytes of ${archive.path}`} />
        {archive.state === 'open' && proof !== null && <ProofLines archive={archive} />}
        {archive.fits.length > 1 && <Fits gameId={gameId} archive={archive} />}
        {trouble !== undefined && (
          <Box sx={{ mt: 1 }}>
            <FaultNote>{trouble}</FaultNote>
          </Box>
        )}
      </Box>
      <Box sx={{ textAlign: 'right' }}>
        {archive.state === 'locked' && <Button onClick={onUnlock}>Unlock…</Button>}
        {archive.state === 'open' && proof === null && <span className="dim">being proven…</span>}
        {archive.entryCount > 0 && (
          <Box sx={{ mt: 0.25 }}>
            <Link href={`/games/${gameId}/find?archive=${archive.id}`} style={{ color: 'var(--teal)' }}>
              Look inside
            </Link>
          </Box>
        )}
      </Box>
    </Box>
  );
}

/** The four numbers of the proof, short; what is wrong stands in the tooltip and below the row. */
function ProofLines({ archive }: { archive: ArchiveAnswer }) {
  const proof = archive.proof!;
  const percent = (part: number, whole: number) => (whole === 0 ? 100 : Math.floor((1000 * part) / whole) / 10);
  const lines = [
    {
      ok: proof.bytes.explained === proof.bytes.total,
      text: `${percent(proof.bytes.explained, proof.bytes.total)} % explained`,
    },
    {
      ok: proof.formulas.agree === proof.formulas.total,
      text: `${count(proof.formulas.agree)} of ${count(proof.formulas.total)} formulas`,
    },
    { ok: proof.identical, text: proof.identical ? 'rebuilds identically' : 'rebuild differs' },
    {
      ok: proof.changed.equal === proof.changed.tested,
      text: `${count(proof.changed.equal)} of ${count(proof.changed.tested)} changed and back`,
    },
  ];
  return (
    <Box
      component="ul"
      aria-label={`Proof of ${archive.path}`}
      title={proof.firsts.join('\n')}
      sx={{ listStyle: 'none', m: 0, mt: 0.5, p: 0, fontSize: 11.5, display: 'flex', flexWrap: 'wrap', columnGap: 1.1 }}
    >
      {lines.map((line) => (
        <Box component="li" key={line.text} sx={{ color: line.ok ? 'var(--dim)' : 'var(--brick)' }}>
          {line.ok ? '✓' : '!'} {line.text}
        </Box>
      ))}
    </Box>
  );
}

/** Which of several fitting recipes the file is read with; the reasons are shown, the choice is the person's. */
function Fits({ gameId, archive }: { gameId: number; archive: ArchiveAnswer }) {
  const choose = useAct(gameId, (recipe: string) =>
    api<RunAnswer>(`games/${gameId}/archives/${archive.id}/recipe`, { method: 'PUT', body: { recipe } }),
  );
  return (
    <Box
      component="ul"
      aria-label={`Recipes that fit ${archive.path}`}
      sx={{ listStyle: 'none', p: 0, m: 0, mt: 0.75 }}
    >
      {archive.fits.map(({ recipe, title, reason }) => {
        const chosen = archive.recipe === recipe;
        return (
          <Box component="li" key={recipe} sx={{ display: 'flex', alignItems: 'center', gap: 1, py: 0.25 }}>
            <Button
              size="small"
              variant={chosen ? 'contained' : 'outlined'}
              disabled={choose.isPending}
              aria-pressed={chosen}
              onClick={() => choose.mutate(recipe)}
            >
              {title}
            </Button>
            <span className="dim">{reason}</span>
          </Box>
        );
      })}
    </Box>
  );
}
