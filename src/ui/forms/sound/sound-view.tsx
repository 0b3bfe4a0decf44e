'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { EntryDetails, FormFacts } from '../../../server/shapes';
import { entryUrl } from '../../shared/api';
import { ChipGroup } from '../../shared/ChipGroup';
import { Fact } from '../../shared/Fact';
import { stemOf } from '../../shared/format';
import { Labelled } from '../../shared/Labelled';
import { Part } from '../../shared/states';
import { soundTray } from './sound-tray';
import type { FitChoicesProps, FormSide, FormView, ViewProps } from '../form-view';
import { SoundsOverlaid } from './SoundsOverlaid';
import { SoundSwitch } from './SoundSwitch';
import { SoundView } from './SoundView';

export const soundView: FormView = { View, Compare, Facts, TakeOut, FitChoices, tray: soundTray };

/** What every browser plays is played as it is, by its name where no facts are known; all else is played as WAVE. */
function heardAt({ subject, facts }: Pick<ViewProps, 'subject' | 'facts'>, name: string): string {
  const direct = facts?.form === 'sound' ? facts.direct : /\.(wav|ogg|flac|mp3)$/i.test(name);
  return `${subject}/${direct ? 'bytes' : 'sound'}`;
}

/** Sounds that every browser plays. */
const PLAYED = /^audio\/(mpeg|ogg|flac|wav)$/;

function View(props: ViewProps) {
  const { facts, mime, subject, name } = props;
  const url = facts === null && PLAYED.test(mime) ? `${subject}/bytes` : heardAt(props, name);
  return <SoundView url={url} name={name} walks />;
}

function Compare({ before, after, name }: { before: FormSide; after: FormSide; name: string }) {
  const urls = [heardAt(before, name), heardAt(after, name)] as const;
  const labels = [before.label, after.label] as const;
  return (
    <Box sx={{ display: 'grid', gap: 2 }}>
      {urls.map((url, i) => (
        <Labelled key={url} label={labels[i]!}>
          <SoundView url={url} name={`${name} ${labels[i]!.toLowerCase()}`} keys={false} />
        </Labelled>
      ))}
      <SoundsOverlaid urls={urls} labels={labels} />
      <SoundSwitch key={urls.join(' ')} urls={urls} labels={labels} />
    </Box>
  );
}

function Facts({ facts }: { facts: FormFacts }) {
  if (facts.form !== 'sound') return null;
  const { summary, seconds, loop } = facts;
  return (
    <Fact name="Sound">
      {summary}
      {seconds > 0 && `, ${seconds.toFixed(1)} s`}
      {loop !== null && (
        <div>
          loop from {loop[0].toFixed(2)} to {loop[1].toFixed(2)} s
        </div>
      )}
    </Fact>
  );
}

function TakeOut({ gameId, entry }: { gameId: number; entry: EntryDetails }) {
  const { facts, trouble } = entry;
  if (facts?.form !== 'sound' || facts.direct || trouble !== null) return null;
  return (
    <Button component="a" href={entryUrl(gameId, entry, 'as/wav')} download={`${stemOf(entry.name)}.wav`}>
      As WAV
    </Button>
  );
}

function FitChoices({ fitOptions, onFit }: FitChoicesProps) {
  return (
    <Part title="Loudness">
      <ChipGroup
        label="Loudness"
        value={fitOptions.loudness === true ? 'original' : 'own'}
        options={{ own: 'as it is', original: 'as loud as the original' }}
        onChange={(next) => onFit({ ...fitOptions, loudness: next === 'original' })}
      />
    </Part>
  );
}
