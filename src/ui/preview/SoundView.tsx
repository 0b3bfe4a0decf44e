'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, useRef, useState } from 'react';
import WaveSurfer from 'wavesurfer.js';
import { FaultNote } from '../shared/states';
import { isTyping } from '../shell/shortcuts';

/** A sound as its waveform: click to jump, Space to play and pause. */
export function SoundView({ url, name, keys = true }: { url: string; name: string; keys?: boolean }) {
  const box = useRef<HTMLDivElement>(null);
  const player = useRef<WaveSurfer>(undefined);
  const [state, setState] = useState({ ready: false, playing: false, at: 0, length: 0 });
  const [fault, setFault] = useState<string>();
  useEffect(() => {
    const style = getComputedStyle(document.documentElement);
    const surfer = WaveSurfer.create({
      container: box.current!,
      url,
      height: 84,
      waveColor: style.getPropertyValue('--brass-mark').trim(),
      progressColor: style.getPropertyValue('--teal').trim(),
      cursorColor: style.getPropertyValue('--ink').trim(),
      barWidth: 2,
      barGap: 1,
    });
    player.current = surfer;
    surfer.on('ready', (length) => setState({ ready: true, playing: false, at: 0, length }));
    surfer.on('timeupdate', (at) => setState((before) => ({ ...before, at })));
    surfer.on('play', () => setState((before) => ({ ...before, playing: true })));
    surfer.on('pause', () => setState((before) => ({ ...before, playing: false })));
    surfer.on('error', (error) => setFault(`The sound cannot be played: ${error.message}`));
    return () => surfer.destroy();
  }, [url]);
  useEffect(() => {
    if (!keys) return undefined;
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== ' ' || isTyping(event) || (event.target as HTMLElement).tagName === 'BUTTON') return;
      event.preventDefault();
      void player.current?.playPause();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [keys]);
  const seconds = (value: number) => value.toFixed(1);
  return (
    <Box>
      <Box
        ref={box}
        role="img"
        aria-label={`Waveform of ${name}`}
        data-ready={state.ready}
        sx={{ border: '1px solid var(--line)', borderRadius: 1, background: 'var(--paper)', minHeight: 86 }}
      />
      {fault !== undefined && <FaultNote>{fault}</FaultNote>}
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mt: 1 }}>
        <Button onClick={() => void player.current?.playPause()} disabled={!state.ready}>
          {state.playing ? 'Pause' : 'Play'}
        </Button>
        <span className="mono dim">
          {seconds(state.at)} / {seconds(state.length)} s
        </span>
      </Box>
    </Box>
  );
}
