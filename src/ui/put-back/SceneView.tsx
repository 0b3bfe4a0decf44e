'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useRef, useState } from 'react';
import { fileName } from '../shared/format';
import type { BuildAnswer, JudgeReport } from '../../server/shapes';
import { Chip } from '../shared/Chip';
import { FilmView } from './FilmView';

/** The title scene, drawn from what the stand-in game loaded; its loading screen when it loaded nothing. */
export function SceneView({
  gameId,
  build,
  report,
}: {
  gameId: number;
  build: BuildAnswer;
  report: JudgeReport & { before?: JudgeReport['scene']; beforeFilm?: JudgeReport['film'] };
}) {
  const [whenChosen, setWhen] = useState<'before' | 'after'>('after');
  const audio = useRef<HTMLAudioElement>(null);
  const shownWhen = report.before == null ? 'after' : whenChosen;
  const scene = shownWhen === 'after' ? report.scene : report.before;
  const film = shownWhen === 'after' ? report.film : report.beforeFilm;
  const [playing, setPlaying] = useState(false);
  const url = (what: 'picture' | 'sound' | 'film' | 'film-sound' | number) =>
    `/api/games/${gameId}/builds/${build.id}/scene?when=${shownWhen}&what=${what}`;
  return (
    <Box>
      <svg
        viewBox="0 0 400 228"
        role="img"
        aria-label={
          scene == null
            ? 'The loading screen, on which the game stays'
            : `The title scene: ${scene.livery.path}, “${scene.caption}”`
        }
        style={{ width: '100%', border: '1px solid var(--line)', borderRadius: 6, display: 'block' }}
      >
        {scene == null ? (
          <>
            <rect width="400" height="228" fill="#1f2b2a" />
            <text x="200" y="112" fill="#fcfbf7" textAnchor="middle" fontSize="15">
              Gondola Post
            </text>
            <rect x="120" y="128" width="160" height="6" rx="3" fill="#3a4542" />
            <rect x="120" y="128" width="58" height="6" rx="3" fill="#a23b2c" />
          </>
        ) : (
          <>
            <rect width="400" height="228" fill="#cfdde2" />
            <path d="M0 172 L92 82 L160 152 L252 60 L400 192 V228 H0 z" fill="#8fa9a2" />
            <path d="M0 40 L400 92" stroke="#1f2b2a" strokeWidth="2.5" />
            <image href={url('picture')} x="138" y="52" width="112" height="112" data-testid="scene-picture" />
            <rect x="0" y="196" width="400" height="32" fill="#1f2b2a" opacity="0.72" />
            <text x="14" y="217" fill="#fcfbf7" fontSize="14">
              “{scene.caption}”
            </text>
          </>
        )}
      </svg>
      {playing && film != null && (
        <FilmView
          key={shownWhen}
          film={film}
          picture={url('film')}
          sound={url('film-sound')}
          onEnd={() => setPlaying(false)}
        />
      )}
      <Box sx={{ display: 'flex', gap: 0.75, mt: 1, alignItems: 'center', flexWrap: 'wrap' }}>
        {report.before != null && (
          <>
            <Chip on={shownWhen === 'before'} onClick={() => setWhen('before')}>
              Before
            </Chip>
            <Chip on={shownWhen === 'after'} onClick={() => setWhen('after')}>
              After
            </Chip>
          </>
        )}
        {scene != null && (
          <>
            <Button variant="text" onClick={() => void audio.current?.play()}>
              ▶ tannoy line
            </Button>
            {film != null && (
              <Button variant="text" onClick={() => setPlaying(!playing)}>
                {playing ? '■ film' : '▶ film'}
              </Button>
            )}
            <audio ref={audio} src={url('sound')} preload="none" data-testid="scene-sound" />
            <span className="dim">
              cabin from {scene.livery.from}, sound from {scene.tannoy.from}
            </span>
          </>
        )}
      </Box>
      {/* Reports of older builds have none. */}
      {(report.shown ?? []).length > 0 && (
        <Box
          role="list"
          aria-label="Your changes in the game"
          sx={{ display: 'flex', flexWrap: 'wrap', gap: 1, mt: 1.5 }}
        >
          {report.shown.map(({ path, from, kind, before }, i) => (
            <Box key={path} role="listitem" title={`${path}, from ${from}`} sx={{ width: 132 }}>
              {shownWhen === 'before' && before === undefined ? (
                <Box className="dim">was not there</Box>
              ) : kind === 'picture' ? (
                <Box
                  component="img"
                  src={url(i)}
                  alt={`${path} in the game`}
                  sx={{
                    display: 'block',
                    width: 132,
                    height: 84,
                    objectFit: 'contain',
                    border: '1px solid var(--line)',
                    borderRadius: 1,
                  }}
                />
              ) : (
                <Heard key={shownWhen} url={url(i)} path={path} />
              )}
              <Box className="dim" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
                {fileName(path)}
              </Box>
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
}

/** A changed sound, as the game plays it. */
function Heard({ url, path }: { url: string; path: string }) {
  const audio = useRef<HTMLAudioElement>(null);
  return (
    <Box
      sx={{
        width: 132,
        height: 84,
        display: 'grid',
        placeItems: 'center',
        border: '1px solid var(--line)',
        borderRadius: 1,
        background: 'var(--sheet)',
      }}
    >
      <Button variant="text" onClick={() => void audio.current?.play()} aria-label={`Play ${path} as in the game`}>
        ▶ Play
      </Button>
      <audio ref={audio} src={url} preload="none" />
    </Box>
  );
}
