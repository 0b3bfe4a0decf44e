'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import Link from 'next/link';
import { useState } from 'react';
import type { BuildAnswer, ChangeAnswer, GameAnswer, InstallAnswer, RunAnswer } from '../../server/shapes';
import { RunCard } from '../runs/RunCard';
import { api } from '../shared/api';
import { count, counted, size, when } from '../shared/format';
import { KindMark } from '../shared/marks';
import { useAct, useChanges, useGame, usePutBack, useRuns } from '../shared/queries';
import { Empty, FaultNote, Part } from '../shared/states';
import { SceneView } from './SceneView';

/** Station Put back: build, test run, put in, take out again. */
export function PutBackStation({ gameId }: { gameId: number }) {
  const { data: game } = useGame(gameId);
  const { data: changes } = useChanges(gameId);
  const { data: putBack } = usePutBack(gameId);
  const { data: runs } = useRuns(gameId);
  const [chosen, setChosen] = useState<number>();
  if (game === undefined || changes === undefined || putBack === undefined) return null;
  const build = putBack.builds.find((one) => one.id === chosen) ?? putBack.builds[0];
  const kinds = ['build', 'put-in', 'take-back'];
  const current = runs?.find((run) => kinds.includes(run.kind));
  const going = current !== undefined && current.state !== 'done' ? current : undefined;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
      <BuildPanel game={game} changes={changes.filter((change) => !change.undone)} />
      <Box sx={{ flex: 1, minWidth: 0, overflow: 'auto', p: 2.25 }}>
        {going !== undefined && <RunCard run={going} />}
        {build === undefined ? (
          <Empty
            title="Nothing is built yet"
            actions={
              <Button component={Link} href={`/games/${gameId}/change`}>
                See the changes
              </Button>
            }
          >
            A build is proven and test run before the game sees it. The game’s folder is not touched until you put it
            in.
          </Empty>
        ) : (
          <BuildView gameId={gameId} game={game} build={build} />
        )}
        <Part title="In the game folder">
          {putBack.installs.length === 0 && <span className="dim">Nothing of yours is in the game folder.</span>}
          {putBack.installs.map((install) => (
            <InstallRow key={install.id} gameId={gameId} install={install} />
          ))}
        </Part>
        {putBack.builds.length > 1 && (
          <Part title="Builds">
            {putBack.builds.map((one) => (
              <Box
                key={one.id}
                component="button"
                type="button"
                aria-pressed={one.id === build?.id}
                onClick={() => setChosen(one.id)}
                sx={{
                  all: 'unset',
                  display: 'block',
                  cursor: 'pointer',
                  py: 0.4,
                  fontWeight: one.id === build?.id ? 700 : 400,
                  '&:focus-visible': { outline: '2px solid var(--teal)' },
                }}
              >
                Build #{one.number} · {when(one.createdAt)} · {one.files.map((file) => file.name).join(', ')}
              </Box>
            ))}
          </Part>
        )}
      </Box>
    </Box>
  );
}

const WAYS = [
  {
    how: 'patch',
    name: 'A small archive that loads last',
    about: 'Only what you changed. The game’s own files stay as they are.',
  },
  {
    how: 'keep',
    name: 'Rebuild the archives that changed',
    about: 'Only what you changed moves; everything else is copied byte for byte.',
  },
] as const;

function BuildPanel({ game, changes }: { game: GameAnswer; changes: readonly ChangeAnswer[] }) {
  const [how, setHow] = useState<'patch' | 'keep'>('patch');
  const build = useAct(game.id, () => api<RunAnswer>(`games/${game.id}/builds`, { body: { how } }), {
    showsFault: true,
  });
  const touched = new Set(changes.map((change) => change.archive));
  const sizes = {
    patch: changes.reduce((sum, change) => sum + change.size, 0),
    keep: game.archives.reduce((sum, archive) => sum + (touched.has(archive.id) ? archive.size : 0), 0),
  };
  return (
    <Box
      component="aside"
      aria-label="What is put back, and how"
      sx={{
        width: 420,
        flex: 'none',
        overflow: 'auto',
        background: 'var(--sheet)',
        borderRight: '1px solid var(--line)',
        p: 2.25,
      }}
    >
      <Typography variant="h1">
        {changes.length === 0 ? 'Nothing to put back' : `${counted(changes.length, 'change')} to put back`}
      </Typography>
      <Box className="dim" sx={{ mb: 1 }}>
        {changes.length === 0
          ? 'Drop an edited file on Change or on an entry first.'
          : 'They are kept outside the archives until you build.'}
      </Box>
      {changes.map((change) => (
        <Box
          key={change.id}
          sx={{ display: 'flex', gap: 1.5, alignItems: 'center', py: 0.9, borderBottom: '1px solid var(--line)' }}
        >
          <KindMark kind={change.kind} label />
          <Box sx={{ flex: 1, minWidth: 0 }}>
            <Box sx={{ overflowWrap: 'anywhere' }}>{change.path}</Box>
            <span className="dim">from {change.fileName}</span>
          </Box>
          <span className="dim">
            {change.before === null ? size(change.size) : difference(change.size - change.before)}
          </span>
        </Box>
      ))}
      <Box sx={{ mt: 2.5 }}>
        <Part title="How">
          <Box role="radiogroup" aria-label="How">
            {WAYS.map((way) => (
              <Box
                key={way.how}
                component="label"
                sx={{
                  display: 'flex',
                  gap: 1.5,
                  border: '1px solid',
                  borderColor: how === way.how ? 'var(--teal)' : 'var(--line)',
                  background: how === way.how ? 'var(--teal2)' : undefined,
                  borderRadius: 1,
                  p: 1.25,
                  mb: 1,
                  cursor: 'pointer',
                }}
              >
                <input
                  type="radio"
                  name="how"
                  checked={how === way.how}
                  onChange={() => setHow(way.how)}
                  style={{ accentColor: 'var(--teal)' }}
                />
                <span>
                  <b>{way.name}</b>
                  <br />
                  <span className="dim">
                    {changes.length > 0 && `About ${size(sizes[way.how])}. `}
                    {way.about}
                  </span>
                </span>
              </Box>
            ))}
          </Box>
        </Part>
        <Button
          variant="contained"
          disabled={changes.length === 0 || build.isPending}
          onClick={() => build.mutate(undefined)}
        >
          Build and test
        </Button>
        {build.error !== null && (
          <Box sx={{ mt: 1 }}>
            <FaultNote>{build.error.message}</FaultNote>
          </Box>
        )}
      </Box>
    </Box>
  );
}

function difference(bytes: number): string {
  return bytes === 0 ? 'same size' : `${bytes > 0 ? '+' : '−'}${size(Math.abs(bytes))}`;
}

function BuildView({ gameId, game, build }: { gameId: number; game: GameAnswer; build: BuildAnswer }) {
  const putIn = useAct(gameId, () => api<RunAnswer>(`games/${gameId}/builds/${build.id}/put-in`, { method: 'POST' }));
  const { report, proof } = build;
  const bad = report !== null && !report.started;
  return (
    <Box sx={{ mb: 3 }}>
      <Box sx={{ display: 'flex', alignItems: 'flex-start', gap: 2, mb: 1.5 }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">
            {report === null ? `Build #${build.number}` : `Test run of build #${build.number}`}
          </Typography>
          <Box className="dim">
            {report === null
              ? 'There is no stand-in game for this one, so the build was proven but not test run.'
              : 'The stand-in game loads the built files on its own, strictly, in load order.'}
          </Box>
        </Box>
        <Button
          variant="contained"
          disabled={bad || game.installed || putIn.isPending}
          title={game.installed ? 'A build is in the game folder. Take it out again first.' : ''}
          onClick={() => putIn.mutate(undefined)}
        >
          Put into the game folder
        </Button>
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(280px, 1fr) minmax(260px, 1fr)', gap: 2 }}>
        {report !== null && <SceneView gameId={gameId} build={build} report={report} />}
        <Box>
          {report !== null && (
            <Part title="What the loader did">
              {report.steps.map((step) => (
                <Line key={step.what} ok text={step.what} note={count(step.count)} />
              ))}
              {report.findings.map((finding) => (
                <Box key={finding.code + finding.offset} sx={{ my: 1 }}>
                  <FaultNote>
                    <b>{finding.rule}</b> Found {finding.found}, in {finding.file}
                    {finding.entry === undefined ? '' : `, ${finding.entry}`}, byte 0x
                    {finding.offset.toString(16).toUpperCase()} ({finding.code}).
                  </FaultNote>
                </Box>
              ))}
            </Part>
          )}
          {proof !== null && (
            <Part title="Proof of the built files">
              <Line
                ok={proof.bytes.explained === proof.bytes.total}
                text="Bytes explained"
                note={`${count(proof.bytes.explained)} of ${count(proof.bytes.total)}`}
              />
              <Line
                ok={proof.formulas.agree === proof.formulas.total}
                text="Computed fields agree"
                note={`${count(proof.formulas.agree)} of ${count(proof.formulas.total)}`}
              />
              <Line ok={proof.identical} text="Rebuilds identically" note={proof.identical ? 'yes' : 'no'} />
              <Line ok text="Changed entries are what was meant" note={count(build.changes.length)} />
              <Line
                ok
                text={
                  build.how === 'keep'
                    ? 'Everything else is byte for byte as it was'
                    : 'The game’s own archives are not touched'
                }
                note=""
              />
            </Part>
          )}
          <Part title="Files">
            {build.files.map((file) => (
              <Line key={file.name} ok text={file.name} note={size(file.size)} />
            ))}
          </Part>
        </Box>
      </Box>
    </Box>
  );
}

function Line({ ok, text, note }: { ok: boolean; text: string; note: string }) {
  return (
    <Box sx={{ display: 'flex', gap: 1.5, py: 0.6, borderBottom: '1px solid var(--line)' }}>
      <Box component="span" sx={{ color: ok ? 'var(--teal)' : 'var(--brick)', width: 12 }}>
        {ok ? '✓' : '!'}
      </Box>
      <Box sx={{ flex: 1, overflowWrap: 'anywhere' }}>{text}</Box>
      <span className="dim" style={{ whiteSpace: 'nowrap' }}>
        {note}
      </span>
    </Box>
  );
}

function InstallRow({ gameId, install }: { gameId: number; install: InstallAnswer }) {
  const takeBack = useAct(gameId, () =>
    api<RunAnswer>(`games/${gameId}/installs/${install.id}/take-back`, { method: 'POST' }),
  );
  const isIn = install.state === 'in';
  return (
    <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center', py: 0.9, borderBottom: '1px solid var(--line)' }}>
      <Box component="span" sx={{ color: 'var(--teal)', width: 12 }}>
        {isIn ? '✓' : ''}
      </Box>
      <Box sx={{ flex: 1 }} className={isIn ? '' : 'dim'}>
        <b>Build #{install.build}</b>{' '}
        {isIn
          ? `put in ${when(install.putInAt)}. `
          : install.takenOutAt === null
            ? 'is on its way. '
            : `taken out ${when(install.takenOutAt)}. `}
        {isIn &&
          (install.kept === 0
            ? `${counted(install.files, 'new file')}, no original replaced.`
            : `Originals kept: ${counted(install.kept, 'file')}.`)}
      </Box>
      {isIn && (
        <Button disabled={takeBack.isPending} onClick={() => takeBack.mutate(undefined)}>
          Take it out again
        </Button>
      )}
    </Box>
  );
}
