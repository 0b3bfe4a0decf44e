'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, useRef, useState } from 'react';
import { Chip } from '../../shared/Chip';
import { FaultNote } from '../../shared/states';
import { useStoredState } from '../../shared/use-stored-state';
import { SURFACES, type MeshStage, type StageFacts, type StageView } from './mesh-stage';

interface Props {
  /** Where it is as GLB. */
  readonly url: string;
  readonly name: string;
  readonly height: number;
}

const SURFACE_WORDS = { texture: 'Texture', plain: 'Plain', normals: 'Normals', uvs: 'UVs' } as const;

/** Radians that an arrow key turns the view, and how much nearer + comes. */
const TURN = 0.15;
const NEARER = 0.87;

/** A mesh to be turned: drag or arrows, wheel or + and −, 0 to see all of it again. */
export function MeshView({ url, name, height }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const stage = useRef<MeshStage>(undefined);
  const [facts, setFacts] = useState<StageFacts>();
  const [fault, setFault] = useState<string>();
  const [surface, setSurface] = useStoredState<StageView['surface']>('mesh-surface', 'texture');
  const [wire, setWire] = useStoredState('mesh-wire', false);
  const [skeleton, setSkeleton] = useStoredState('mesh-skeleton', false);
  const [level, setLevel] = useState<number | 'all'>(0);
  useEffect(() => {
    const element = canvas.current!;
    let made: MeshStage | undefined;
    let over = false;
    const observer = new ResizeObserver(([area]) => made?.resize(area!.contentRect.width, area!.contentRect.height));
    // Drawing takes a large library: it is fetched when there is something to draw.
    void import('./mesh-stage')
      .then(async ({ MeshStage: Stage }) => {
        if (over) return;
        made = stage.current = new Stage(element);
        made.onDrawn = (triangles) => (element.dataset['triangles'] = String(triangles));
        const found = await made.load(url);
        if (over) return;
        observer.observe(element.parentElement!);
        setFacts(found);
      })
      .catch((error: Error) => setFault(error.message));
    return () => {
      over = true;
      observer.disconnect();
      stage.current = undefined;
      made?.dispose();
    };
  }, [url]);
  useEffect(() => {
    if (facts === undefined) return;
    stage.current?.show({ surface, wire, skeleton, level });
  }, [facts, surface, wire, skeleton, level]);
  useEffect(() => {
    if (facts !== undefined) stage.current?.frameAll();
  }, [facts, level]);
  const onKeyDown = (event: React.KeyboardEvent) => {
    const moves: Readonly<Record<string, readonly [number, number, number]>> = {
      ArrowLeft: [-TURN, 0, 1],
      ArrowRight: [TURN, 0, 1],
      ArrowUp: [0, TURN, 1],
      ArrowDown: [0, -TURN, 1],
      '+': [0, 0, NEARER],
      '-': [0, 0, 1 / NEARER],
    };
    const move = moves[event.key];
    if (event.key === '0') stage.current?.frameAll();
    else if (move !== undefined) stage.current?.turn(...move);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  if (fault !== undefined) return <FaultNote tone="brass">{fault}</FaultNote>;
  return (
    <Box>
      <Box
        tabIndex={0}
        role="application"
        aria-label={`${name}: turn it with the arrow keys`}
        onKeyDown={onKeyDown}
        onDoubleClick={() => stage.current?.frameAll()}
        sx={{
          height,
          border: '1px solid var(--line)',
          borderRadius: 1,
          background: 'var(--paper)',
          overflow: 'hidden',
          cursor: 'grab',
          '&:focus-visible': { outline: '2px solid var(--teal)' },
        }}
      >
        <canvas ref={canvas} style={{ width: '100%', height: '100%', display: 'block', touchAction: 'none' }} />
      </Box>
      <Box sx={{ display: 'flex', gap: 0.75, mt: 1, flexWrap: 'wrap' }}>
        {SURFACES.map((one) => (
          <Chip key={one} on={surface === one} onClick={() => setSurface(one)}>
            {SURFACE_WORDS[one]}
          </Chip>
        ))}
        <Chip on={wire} onClick={() => setWire(!wire)}>
          Wire
        </Chip>
        {facts !== undefined && facts.joints > 0 && (
          <Chip on={skeleton} onClick={() => setSkeleton(!skeleton)}>
            Skeleton
          </Chip>
        )}
      </Box>
      {facts !== undefined && facts.levels.length > 1 && (
        <Box sx={{ display: 'flex', gap: 0.75, mt: 0.75, flexWrap: 'wrap', alignItems: 'center' }}>
          <span className="dim">Detail</span>
          {facts.levels.map((triangles, i) => (
            <Chip key={i} on={level === i} onClick={() => setLevel(i)} label={`Level ${i + 1}, ${triangles} triangles`}>
              {i === 0 ? `most, ${triangles.toLocaleString('en')}` : triangles.toLocaleString('en')}
            </Chip>
          ))}
          <Chip on={level === 'all'} onClick={() => setLevel('all')}>
            side by side
          </Chip>
        </Box>
      )}
      {facts !== undefined && facts.clips.length > 0 && <Clips clips={facts.clips} stage={stage} />}
    </Box>
  );
}

/** Plays the clips of a mesh, or goes through them frame by frame. */
function Clips({ clips, stage }: { clips: StageFacts['clips']; stage: React.RefObject<MeshStage | undefined> }) {
  const [chosen, setChosen] = useState<number>();
  const [frame, setFrame] = useState(0);
  const [playing, setPlaying] = useState(false);
  const clip = chosen === undefined ? undefined : clips[chosen];
  const frames = clip?.frames ?? 1;
  const choose = (next: number | undefined) => {
    setPlaying(false);
    setChosen(next);
    setFrame(0);
  };
  useEffect(() => {
    stage.current?.pose(chosen, clip === undefined ? 0 : frame / clip.rate);
  }, [stage, chosen, clip, frame]);
  useEffect(() => {
    if (!playing || clip === undefined) return undefined;
    const timer = setInterval(() => setFrame((at) => (at + 1) % clip.frames), 1000 / clip.rate);
    return () => clearInterval(timer);
  }, [playing, clip]);
  const step = (by: number) => {
    setPlaying(false);
    setFrame((frame + by + frames) % frames);
  };
  return (
    <Box sx={{ display: 'flex', gap: 0.75, mt: 0.75, flexWrap: 'wrap', alignItems: 'center' }}>
      <span className="dim">Clip</span>
      <Chip on={chosen === undefined} onClick={() => choose(undefined)}>
        at rest
      </Chip>
      {clips.map(({ name }, i) => (
        <Chip key={name} on={chosen === i} onClick={() => choose(i)}>
          {name}
        </Chip>
      ))}
      {clip !== undefined && (
        <>
          <Button onClick={() => setPlaying(!playing)}>{playing ? 'Pause' : 'Play'}</Button>
          <Button aria-label="Previous frame" onClick={() => step(-1)} sx={{ minWidth: 0, px: 1 }}>
            −1
          </Button>
          <Button aria-label="Next frame" onClick={() => step(1)} sx={{ minWidth: 0, px: 1 }}>
            +1
          </Button>
          <span className="mono dim" role="status">
            {frame + 1} / {clip.frames}
          </span>
        </>
      )}
    </Box>
  );
}
