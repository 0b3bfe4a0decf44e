'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, useRef, useState } from 'react';
import { Chip } from '../../shared/Chip';
import { FaultNote } from '../../shared/states';
import { fileAt } from '../../shared/api';

interface Player {
  readonly context: AudioContext;
  readonly gains: readonly [GainNode, GainNode];
  readonly sources: readonly [AudioBufferSourceNode, AudioBufferSourceNode];
}

/** Two sounds that run together, of which one is heard: the louder one as loud as the quieter, so that it does not win by that. */
export function SoundSwitch({ urls, labels }: { urls: readonly [string, string]; labels: readonly [string, string] }) {
  const [heard, setHeard] = useState<0 | 1>(1);
  const [playing, setPlaying] = useState(false);
  const [levels, setLevels] = useState<readonly [number, number]>();
  const [fault, setFault] = useState<string>();
  const player = useRef<Player>(undefined);
  const stop = () => {
    void player.current?.context.close();
    player.current = undefined;
    setPlaying(false);
  };
  const gone = useRef(false);
  useEffect(() => {
    gone.current = false;
    return () => {
      gone.current = true;
      void player.current?.context.close();
    };
  }, []);
  const play = async () => {
    setFault(undefined);
    const context = new AudioContext();
    try {
      const buffers = await Promise.all(
        urls.map(async (url) => context.decodeAudioData(await (await fileAt(url)).arrayBuffer())),
      );
      // Someone may have walked on while they were fetched.
      if (gone.current) return void context.close();
      const powers = buffers.map(meanPower);
      const quiet = Math.min(...powers.filter((power) => power > 0));
      const factors = powers.map((power) => (power > 0 && Number.isFinite(quiet) ? Math.sqrt(quiet / power) : 1));
      const made = buffers.map((buffer, i) => {
        const gain = context.createGain();
        gain.gain.value = i === heard ? factors[i]! : 0;
        gain.connect(context.destination);
        const source = context.createBufferSource();
        source.buffer = buffer;
        source.loop = true;
        source.connect(gain);
        return { gain, source };
      });
      const [a, b] = made as [(typeof made)[0], (typeof made)[0]];
      player.current = { context, gains: [a.gain, b.gain], sources: [a.source, b.source] };
      setLevels([factors[0]!, factors[1]!]);
      // Both from the same moment, so that the other goes on where the one is left.
      const at = context.currentTime + 0.05;
      for (const { source } of made) source.start(at);
      setPlaying(true);
    } catch (error) {
      void context.close();
      setFault(`They cannot be played: ${error instanceof Error ? error.message : String(error)}`);
    }
  };
  const hear = (which: 0 | 1) => {
    setHeard(which);
    const { gains, context } = player.current ?? {};
    gains?.forEach((gain, i) =>
      gain.gain.setTargetAtTime(i === which ? (levels?.[i] ?? 1) : 0, context!.currentTime, 0.005),
    );
  };
  const quieter = levels === undefined ? undefined : levels[0] < levels[1] ? 0 : 1;
  return (
    <Box>
      <Box sx={{ display: 'flex', gap: 0.75, alignItems: 'center', flexWrap: 'wrap' }}>
        <Button onClick={() => (playing ? stop() : void play())}>{playing ? 'Stop' : 'Play both, switching'}</Button>
        {labels.map((label, i) => (
          <Chip key={label} on={heard === i} onClick={() => hear(i as 0 | 1)} label={`Hear ${label.toLowerCase()}`}>
            {label}
          </Chip>
        ))}
        {levels !== undefined && quieter !== undefined && levels[quieter] < 0.99 && (
          <span className="dim">
            equally loud: “{labels[quieter]}” is played {(-20 * Math.log10(levels[quieter])).toFixed(1)} dB quieter
          </span>
        )}
      </Box>
      {fault !== undefined && <FaultNote>{fault}</FaultNote>}
    </Box>
  );
}

function meanPower(buffer: AudioBuffer): number {
  const samples = buffer.getChannelData(0);
  return samples.reduce((sum, value) => sum + value * value, 0) / Math.max(1, samples.length);
}
