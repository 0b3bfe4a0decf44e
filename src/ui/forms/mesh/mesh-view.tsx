'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Skeleton from '@mui/material/Skeleton';
import { lazy, Suspense } from 'react';
import { MESH_OUT } from '../../../core/forms/mesh/out-formats';
import type { EntryDetails, FormFacts } from '../../../server/shapes';
import { entryUrl } from '../../shared/api';
import { ChipGroup } from '../../shared/ChipGroup';
import { stemOf } from '../../shared/format';
import { Labelled } from '../../shared/Labelled';
import { Part } from '../../shared/states';
import { meshTray } from './mesh-tray';
import type { FitChoicesProps, FormSide, FormView, ViewProps } from '../form-view';
import { MeshFactRows } from './MeshFactRows';

/** It takes a library to draw, which pages without a mesh need not have. */
const MeshView = lazy(async () => ({ default: (await import('./MeshView')).MeshView }));

export const meshView: FormView = { View, Compare, Facts, TakeOut, FitChoices, tray: meshTray };

function View({ subject, name, large }: ViewProps) {
  return <Drawn subject={subject} name={name} height={large ? 460 : 260} />;
}

function Drawn({ subject, name, height }: { subject: string; name: string; height: number }) {
  return (
    <Suspense fallback={<Skeleton variant="rounded" height={height} />}>
      <MeshView url={`${subject}/model`} name={name} height={height} />
    </Suspense>
  );
}

function Compare({ before, after, name }: { before: FormSide; after: FormSide; name: string }) {
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2 }}>
      {[before, after].map(({ subject, label }) => (
        <Labelled key={subject} label={label}>
          <Drawn subject={subject} name={`${name} ${label.toLowerCase()}`} height={360} />
        </Labelled>
      ))}
    </Box>
  );
}

function Facts({ facts, onGo }: { facts: FormFacts; onGo: (path: string) => void }) {
  return facts.form === 'mesh' ? <MeshFactRows mesh={facts} onGo={onGo} /> : null;
}

function TakeOut({ gameId, entry }: { gameId: number; entry: EntryDetails }) {
  const { facts } = entry;
  if (facts?.form !== 'mesh') return null;
  const formats = facts.clip === null ? MESH_OUT : (['glb'] as const);
  return formats.map((as) => (
    <Button key={as} component="a" href={entryUrl(gameId, entry, `as/${as}`)} download={`${stemOf(entry.name)}.${as}`}>
      As {as === 'glb' ? 'glTF' : as.toUpperCase()}
    </Button>
  ));
}

/** Where the game has several levels of detail, and a file brings one. */
function FitChoices({ facts, fitOptions, onFit }: FitChoicesProps) {
  if (facts?.form !== 'mesh' || facts.levels.length < 2) return null;
  return (
    <Part title="Levels of detail you did not bring">
      <ChipGroup
        label="Levels of detail you did not bring"
        value={fitOptions.levels ?? 'made'}
        options={{ made: 'made from yours', kept: 'kept from the original' }}
        onChange={(levels) => onFit({ ...fitOptions, levels })}
      />
    </Part>
  );
}
