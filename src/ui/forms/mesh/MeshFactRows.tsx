'use client';
import Button from '@mui/material/Button';
import type { MeshFacts } from '../../../server/shapes';
import { Fact } from '../../shared/Fact';
import { counted, fileName } from '../../shared/format';

/** What a mesh is made of, or what a clip moves. */
export function MeshFactRows({ mesh, onGo }: { mesh: MeshFacts; onGo: (path: string) => void }) {
  const go = (path: string, text = fileName(path)) => (
    <Button variant="inline" onClick={() => onGo(path)}>
      {text}
    </Button>
  );
  if (mesh.clip !== null) {
    const { frames, rate, loops, joints, mesh: moved, there } = mesh.clip;
    return (
      <Fact name="Clip">
        {counted(frames, 'frame')} at {rate} a second, {(frames / rate).toFixed(1)} s{loops ? ', looping' : ''}
        <div>
          {counted(joints, 'joint')} of{' '}
          {moved === null ? 'a mesh that it does not refer to' : there ? go(moved) : `${moved}, which is not there`}
        </div>
      </Fact>
    );
  }
  const { inspection, millimetres, levels, joints, materials, clips } = mesh;
  return (
    <>
      {inspection !== null && (
        <Fact name="Shape">
          {counted(inspection.triangles, 'triangle')}, {counted(inspection.vertices, 'vertex', 'vertices')} in{' '}
          {counted(inspection.parts, 'part')}
          <div>
            {counted(inspection.shells, 'shell')},{' '}
            {inspection.closed === inspection.shells ? 'all closed' : `${inspection.closed} closed`}
            {inspection.holes > 0 && `, ${counted(inspection.holes, 'hole')}`}
            {inspection.nonManifold > 0 && `, ${counted(inspection.nonManifold, 'edge')} with more than two triangles`}
            {inspection.flat > 0 && `, ${counted(inspection.flat, 'triangle')} without area`}
          </div>
        </Fact>
      )}
      {inspection !== null && millimetres !== null && (
        <Fact name="Size">
          {inspection.size.map((side) => side.toFixed(2)).join(' × ')}
          <div className="dim">{millimetres.map((side) => Math.round(side).toLocaleString('en')).join(' × ')} mm</div>
        </Fact>
      )}
      {levels.length > 1 && (
        <Fact name="Detail">
          {levels.map(({ triangles, from }, i) => (
            <div key={i}>
              {counted(triangles, 'triangle')}
              {i === 0 ? ', the most detailed' : <span className="dim"> from {from} on</span>}
            </div>
          ))}
        </Fact>
      )}
      {joints.length > 0 && <Fact name="Joints">{joints.join(', ')}</Fact>}
      <Fact name="Wears">
        {materials.map(({ name, textures }) => (
          <div key={name}>
            {name}
            {textures.map(({ path, there }) => (
              <div key={path}>{there ? go(path) : `${path}, which is not there`}</div>
            ))}
          </div>
        ))}
      </Fact>
      {clips.length > 0 && (
        <Fact name="Clips">
          {clips.map(({ path }) => (
            <div key={path}>{go(path)}</div>
          ))}
        </Fact>
      )}
    </>
  );
}
