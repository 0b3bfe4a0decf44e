'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, useRef, useState } from 'react';
import type { FilmFacts } from '../../../server/shapes';
import { Chip } from '../../shared/Chip';
import { FaultNote } from '../../shared/states';
import { isTyping } from '../../shell/shortcuts';
export const NOT_PLAYED = 'This browser cannot play it. Take it out to play it elsewhere.';

export function Played({
  source,
  film,
  tracks,
  keys,
  plays = false,
}: {
  source: string;
  film: FilmFacts;
  tracks: readonly { src: string; locale: string }[];
  keys: boolean;
  plays?: boolean;
}) {
  const video = useRef<HTMLVideoElement>(null);
  const [fault, setFault] = useState<string>();
  const [shown, setShown] = useState<string | null>(tracks[0]?.locale ?? null);
  const [at, setAt] = useState(film.packet?.at ?? 0);
  useEffect(() => {
    for (const track of video.current?.textTracks ?? []) track.mode = track.language === shown ? 'showing' : 'disabled';
  }, [shown]);
  useEffect(() => {
    if (!keys) return undefined;
    const onKey = (event: KeyboardEvent) => {
      const tag = (event.target as HTMLElement).tagName;
      if (event.key !== ' ' || isTyping(event) || tag === 'BUTTON' || tag === 'VIDEO') return;
      event.preventDefault();
      if (video.current?.paused === true) void video.current.play();
      else video.current?.pause();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [keys]);
  const step = (by: number) => {
    const element = video.current!;
    element.pause();
    // To the middle of a picture, so that rounding shows no other.
    const picture = Math.floor(element.currentTime * film.rate + 1e-3) + by;
    element.currentTime = Math.max(0, (picture + 0.5) / film.rate);
  };
  const picture = Math.floor(at * film.rate + 1e-3);
  return (
    <Box>
      <video
        ref={video}
        src={source}
        controls
        autoPlay={plays}
        aria-label={`The film ${film.name}`}
        style={{ width: '100%', display: 'block', borderRadius: 6, background: '#1f2b2a' }}
        onLoadedMetadata={(event) => {
          if (film.packet !== null && film.packet.at > 0) event.currentTarget.currentTime = film.packet.at;
          for (const track of event.currentTarget.textTracks)
            track.mode = track.language === shown ? 'showing' : 'disabled';
        }}
        onTimeUpdate={(event) => setAt(event.currentTarget.currentTime)}
        onSeeked={(event) => setAt(event.currentTarget.currentTime)}
        onError={() => setFault(NOT_PLAYED)}
      >
        {tracks.map(({ src, locale }) => (
          <track key={src} src={src} kind="subtitles" srcLang={locale} label={locale} />
        ))}
      </video>
      {fault !== undefined && <FaultNote tone="brass">{fault}</FaultNote>}
      <Box sx={{ display: 'flex', gap: 0.75, mt: 1, flexWrap: 'wrap', alignItems: 'center' }}>
        {film.rate > 0 && (
          <>
            <Button aria-label="Previous frame" onClick={() => step(-1)} sx={{ minWidth: 0, px: 1 }}>
              −1
            </Button>
            <Button aria-label="Next frame" onClick={() => step(1)} sx={{ minWidth: 0, px: 1 }}>
              +1
            </Button>
            <span className="mono dim" role="status">
              picture {picture + 1}, {at.toFixed(2)} s
            </span>
          </>
        )}
        {tracks.length > 0 && (
          <>
            {tracks.map(({ locale }) => (
              <Chip
                key={locale}
                on={shown === locale}
                onClick={() => setShown(locale)}
                label={`Subtitles in ${locale}`}
              >
                {locale}
              </Chip>
            ))}
            <Chip on={shown === null} onClick={() => setShown(null)}>
              no subtitles
            </Chip>
          </>
        )}
      </Box>
    </Box>
  );
}
