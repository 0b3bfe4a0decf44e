'use client';
import Box from '@mui/material/Box';
import { bytesByQuality } from '../../../core/forms/film/out-formats';
import type { EntryDetails, FilmFacts, FormFacts } from '../../../server/shapes';
import { Fact } from '../../shared/Fact';
import { Labelled } from '../../shared/Labelled';
import { BytesBeside } from '../../preview/BytesBeside';
import { BytesView } from '../../preview/BytesView';
import { filmTray } from './film-tray';
import type { FitChoicesProps, FormSide, FormView, ViewProps } from '../form-view';
import { pictureView } from '../picture';
import { wordsView } from '../text';
import { FilmFields } from './FilmFields';
import { FilmOut } from './FilmOut';
import { FilmPlayer } from './FilmPlayer';

export const filmView: FormView = { View, Compare, Facts, TakeOut, FitChoices, tray: filmTray };

const factsOf = (facts: FormFacts | null): FilmFacts | undefined => (facts?.form === 'film' ? facts : undefined);

/** A film; one that is an entry for each packet with what the packet holds. */
function View(props: ViewProps) {
  const film = factsOf(props.facts);
  if (film === undefined) return <BytesView url={`${props.subject}/bytes`} size={props.size} />;
  const { packet } = film;
  const player = <FilmPlayer subject={props.subject} film={film} />;
  if (packet === null) return player;
  const isText = /\.(txt|srt)$/i.test(props.name);
  return (
    <>
      {player}
      <Box sx={{ mt: 1.5, mb: 0.5 }} className="dim">
        This packet of it, at {packet.at.toFixed(2)} s
      </Box>
      {packet.picture !== null ? (
        <pictureView.View {...props} facts={packet.picture} />
      ) : isText ? (
        <wordsView.View {...props} facts={null} />
      ) : (
        <Box className="dim">Its bytes can be looked at, taken out and replaced.</Box>
      )}
    </>
  );
}

function Compare({ before, after, name }: { before: FormSide; after: FormSide; name: string }) {
  const [old, own] = [factsOf(before.facts), factsOf(after.facts)];
  if (old === undefined || own === undefined) return <BytesBeside before={before} after={after} />;
  const isPackets = own.packet !== null;
  // Packets alone show nothing: the film is seen with all that is changed in it.
  const sides = isPackets
    ? [
        { ...before, label: 'The game’s', isChanged: false },
        { ...before, label: 'As the game will have it', isChanged: true },
      ]
    : [before, after];
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2 }} aria-label={name} role="group">
      {sides.map(({ subject, label, facts, isChanged = false }) => (
        <Labelled key={`${subject} ${label}`} label={label}>
          <FilmPlayer subject={subject} film={factsOf(facts) ?? own} changed={isChanged} keys={false} />
        </Labelled>
      ))}
    </Box>
  );
}

function Facts({ facts, onGo }: { facts: FormFacts; onGo: (path: string) => void }) {
  const film = factsOf(facts);
  if (film === undefined) return null;
  return (
    <>
      {film.packet?.picture != null && pictureView.Facts !== undefined && (
        <pictureView.Facts facts={film.packet.picture} onGo={onGo} />
      )}
      <Fact name="Film">
        {film.name}, {film.seconds.toFixed(1)} s
        {film.streams.map(({ number, summary }) => (
          <div key={number}>{summary}</div>
        ))}
      </Fact>
    </>
  );
}

function TakeOut({ gameId, entry }: { gameId: number; entry: EntryDetails }) {
  const film = factsOf(entry.facts);
  return film === undefined || film.trouble !== null ? null : <FilmOut gameId={gameId} entry={entry} film={film} />;
}

function FitChoices({ change, facts, fitOptions, isBusy, onFit }: FitChoicesProps) {
  const film = factsOf(facts);
  if (film === undefined) return null;
  return (
    <FilmFields
      key={change.id}
      sizes={film.bits === null ? null : bytesByQuality(film.bits, film.seconds)}
      codec={film.codec ?? undefined}
      rate={film.rate}
      sound={film.streams.some(({ is }) => is === 'sound')}
      fitOptions={fitOptions.film ?? {}}
      go={{ label: 'Convert it again', busy: isBusy, onGo: (chosen) => onFit({ ...fitOptions, film: chosen }) }}
    />
  );
}
