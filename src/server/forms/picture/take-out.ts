/** Pictures as files of open formats; what holds a part of one goes out in it. */
import { parseSplit } from '../../../core/forms/picture';
import { partsOfPictures } from '../../recipes';
import { entrySubject } from '../subject';
import { fileOf, isNamedAs, type Outgoing, type OutPlan } from '../take-out';
import { pictureOf } from './entry-picture';
import { pictureFileAs } from './picture-out';

export async function planPictures({ gameId, order, entries }: Outgoing): Promise<OutPlan | undefined> {
  const { pictures: as, mip, split } = order;
  if (as === undefined) return undefined;
  // Other formats keep pixels as they are packed, and cannot be split.
  const parts = split === undefined || (as !== 'png' && as !== 'tga') ? [undefined] : parseSplit(split);
  const converts = (entry: (typeof entries)[number]) => !isNamedAs(entry, as) || split !== undefined || mip > 0;
  const others = await partsOfPictures(
    gameId,
    entries.filter(converts).map(({ path }) => path),
  );
  return {
    as,
    converts,
    isWithin: ({ path }) => others.has(path),
    suffixes: parts.map((part) => part?.suffix ?? ''),
    async *files({ archive, n }, signal) {
      const picture = await pictureOf(await entrySubject(archive, n));
      for (const part of parts)
        yield {
          ...fileOf((await pictureFileAs(picture, as, signal, { mip, part })).bytes),
          suffix: part?.suffix ?? '',
        };
    },
  };
}
