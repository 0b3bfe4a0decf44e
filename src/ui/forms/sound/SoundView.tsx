'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, useRef, useState } from 'react';
import WaveSurfer from 'wavesurfer.js';
import Spectrogram from 'wavesurfer.js/dist/plugins/spectrogram.esm.js';
import { Chip } from '../../shared/Chip';
import { FaultNote } from '../../shared/states';
import { useStoredState } from '../../shared/use-stored-state';
import { isTyping } from '../../shell/shortcuts';

interface Props {
  readonly url: string;
  readonly name: string;
  /** Space plays and pauses; of several on a page only one has the key. */
  readonly keys?: boolean;
  /** Offers to play each sound as one walks to it. */
  readonly walks?: boolean;
}

/** A sound as its waveform: click to jump, Space to play and pause; over and over, and as its spectrum, when asked. */
export function SoundView({ url, name, keys = true, walks = false }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const player = useRef<WaveSurfer>(undefined);
  const [state, setState] = useState({ ready: false, playing: false, at: 0, length: 0 });
  const [fault, setFault] = useState<string>();
  const [over, setOver] = useState(false);
  const [spectrum, setSpectrum] = useStoredState('sound-spectrum', false);
  const [playing, setPlaying] = useStoredState('sound-plays-while-walking', false);
  const wanted = useRef({ over: false, plays: false });
  useEffect(() => {
    wanted.current = { over, plays: walks && playing };
  }, [over, walks, playing]);
  useEffect(() => {
    const style = getComputedStyle(document.documentElement);
    const surfer = WaveSurfer.create({
      container: box.current!,
      url,
      // Its own choice of 8 kHz would leave the upper half of the spectrum out.
      sampleRate: 48_000,
      height: 84,
      waveColor: style.getPropertyValue('--brass-mark').trim(),
      progressColor: style.getPropertyValue('--teal').trim(),
      cursorColor: style.getPropertyValue('--ink').trim(),
      barWidth: 2,
      barGap: 1,
    });
    player.current = surfer;
    if (spectrum)
      surfer.registerPlugin(Spectrogram.create({ labels: true, height: 110, scale: 'mel', colorMap: 'igray' }));
    surfer.on('ready', (length) => {
      setState({ ready: true, playing: false, at: 0, length });
      // A browser that does not let it play leaves the button to be pressed.
      if (wanted.current.plays) void surfer.play().catch(() => {});
    });
    surfer.on('timeupdate', (at) => setState((before) => ({ ...before, at })));
    surfer.on('play', () => setState((before) => ({ ...before, playing: true })));
    surfer.on('pause', () => setState((before) => ({ ...before, playing: false })));
    surfer.on('finish', () => wanted.current.over && void surfer.play(0));
    surfer.on('error', (error) => setFault(`The sound cannot be played: ${error.message}`));
    return () => surfer.destroy();
  }, [url, spectrum]);
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
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.75, mt: 1, flexWrap: 'wrap' }}>
        <Button onClick={() => void player.current?.playPause()} disabled={!state.ready}>
          {state.playing ? 'Pause' : 'Play'}
        </Button>
        <Box component="span" className="mono dim" sx={{ mr: 0.5 }}>
          {seconds(state.at)} / {seconds(state.length)} s
        </Box>
        <Chip on={over} onClick={() => setOver(!over)} label="Loop">
          Loop
        </Chip>
        <Chip on={spectrum} onClick={() => setSpectrum(!spectrum)}>
          Spectrum
        </Chip>
        {walks && (
          <Chip on={playing} onClick={() => setPlaying(!playing)} label="Play each sound when it is selected">
            Autoplay
          </Chip>
        )}
      </Box>
    </Box>
  );
}
