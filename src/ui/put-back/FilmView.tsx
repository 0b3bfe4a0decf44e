'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import { useEffect, useRef, useState } from 'react';
import type { JudgeReport } from '../../server/shapes';

/** How long a subtitle is shown, in milliseconds, when no other follows. */
const STANDS = 1500;

let shown = 0;

/** A film as the stand-in game plays it, once: its frames, its sound and its subtitles. */
export function FilmView({
  film,
  picture,
  sound,
  onEnd,
}: {
  film: NonNullable<JudgeReport['film']>;
  picture: string;
  sound: string;
  onEnd: () => void;
}) {
  // Another address each time: an animated picture plays from its start only when it is loaded again.
  const [again] = useState(() => ++shown);
  const [text, setText] = useState('');
  const [ready, setReady] = useState(false);
  const audio = useRef<HTMLAudioElement>(null);
  const ended = useRef(onEnd);
  useEffect(() => {
    ended.current = onEnd;
  }, [onEnd]);
  useEffect(() => {
    if (!ready) return undefined;
    void audio.current?.play().catch(() => {});
    const timers = film.subtitles.flatMap(({ time, text: subtitle }) => [
      setTimeout(() => setText(subtitle), time),
      setTimeout(() => setText((now) => (now === subtitle ? '' : now)), time + STANDS),
    ]);
    timers.push(setTimeout(() => ended.current(), film.seconds * 1000));
    return () => timers.forEach(clearTimeout);
  }, [ready, film]);
  return (
    <Box sx={{ position: 'relative', mt: 1 }} role="group" aria-label={`The film of ${film.file}`}>
      <Box
        component="img"
        src={`${picture}&again=${again}`}
        alt="The film, as the game plays it"
        onLoad={() => setReady(true)}
        sx={{ display: 'block', width: '100%', border: '1px solid var(--line)', borderRadius: '6px' }}
      />
      <Box
        role="status"
        sx={{
          position: 'absolute',
          insetInline: 0,
          bottom: 8,
          textAlign: 'center',
          color: '#fcfbf7',
          textShadow: '0 0 4px #1f2b2a, 0 0 2px #1f2b2a',
          fontWeight: 600,
        }}
      >
        {visible(text)}
      </Box>
      <audio ref={audio} src={sound} preload="auto" data-testid="film-sound" />
    </Box>
  );
}
