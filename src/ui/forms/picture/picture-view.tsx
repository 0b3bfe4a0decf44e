'use client';
import Button from '@mui/material/Button';
import { visible } from '../../../core/faults/visible';
import type { EntryDetails, FormFacts, PictureFacts } from '../../../server/shapes';
import { entryUrl } from '../../shared/api';
import { ChipGroup } from '../../shared/ChipGroup';
import { Chip } from '../../shared/Chip';
import { Fact } from '../../shared/Fact';
import { fileName, stemOf } from '../../shared/format';
import { Part } from '../../shared/states';
import { pictureTray } from './picture-tray';
import type { FitChoicesProps, FormSide, FormView, ViewProps } from '../form-view';
import { PictureComparison } from './PictureComparison';
import { PictureView } from './PictureView';
import type { PixelSource } from './pixels';

export const pictureView: FormView = { View, Compare, Facts, TakeOut, FitChoices, tray: pictureTray };

const factsOf = (facts: FormFacts | null): PictureFacts | undefined => (facts?.form === 'picture' ? facts : undefined);

/** What every browser shows is shown as it is, by its name where no facts are known; levels of all else are unpacked. */
function sourceOf({ subject, facts }: Pick<ViewProps, 'subject' | 'facts'>, name: string): PixelSource {
  const direct = factsOf(facts)?.direct ?? /\.(png|jpe?g|webp|gif)$/i.test(name);
  return direct ? { url: `${subject}/bytes`, packed: false } : { url: `${subject}/picture`, packed: true };
}

function View(props: ViewProps) {
  const { facts, name, large } = props;
  return <PictureView source={sourceOf(props, name)} name={name} height={large ? 480 : 190} facts={factsOf(facts)} />;
}

function Compare({ before, after, name }: { before: FormSide; after: FormSide; name: string }) {
  const side = (one: FormSide) => ({ label: one.label, source: sourceOf(one, name) });
  return <PictureComparison before={side(before)} after={side(after)} name={name} />;
}

function Facts({ facts, onGo }: { facts: FormFacts; onGo: (path: string) => void }) {
  if (facts.form !== 'picture') return null;
  const { width, height, packing, alpha, mips, companions } = facts;
  return (
    <Fact name="Pixels">
      {width} × {height}, {packing}
      {alpha ? ', with alpha' : ''}
      {mips > 1 ? `, ${mips} mips` : ''}
      {companions.map((path) => (
        <div key={path}>
          and in{' '}
          <Button variant="inline" onClick={() => onGo(path)}>
            {visible(fileName(path))}
          </Button>
        </div>
      ))}
    </Fact>
  );
}

function TakeOut({ gameId, entry }: { gameId: number; entry: EntryDetails }) {
  if (factsOf(entry.facts)?.direct !== false) return null;
  return (
    <Button component="a" href={entryUrl(gameId, entry, 'as/png')} download={`${stemOf(entry.name)}.png`}>
      As PNG
    </Button>
  );
}

/** How a packed picture is packed again. */
function FitChoices({ facts, fitOptions, onFit }: FitChoicesProps) {
  const picture = factsOf(facts);
  if (picture === undefined || picture.direct) return null;
  const { chosen = false, ownSize = false, quality = 'best' } = fitOptions;
  return (
    <Part title="Packing">
      <ChipGroup
        label="Packing"
        value={quality}
        options={{ best: 'as near as can be', fast: 'fast' }}
        onChange={(next) => onFit({ ...fitOptions, quality: next })}
      >
        {picture.free.format && (
          <Chip on={chosen} onClick={() => onFit({ ...fitOptions, chosen: !chosen })}>
            chosen by its pixels
          </Chip>
        )}
        {picture.free.size && (
          <Chip on={ownSize} onClick={() => onFit({ ...fitOptions, ownSize: !ownSize })}>
            in its own size
          </Chip>
        )}
      </ChipGroup>
    </Part>
  );
}
