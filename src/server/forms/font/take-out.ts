/** Fonts in other containers; fonts of pictures and collections have none, and stay as they are. */
import { fontContainer } from '../../../core/forms/font';
import { entrySubject } from '../subject';
import { fileOf, isNamedAs, type Outgoing, type OutPlan } from '../take-out';
import { fontInContainer } from './open-font';

export function planFonts({ order: { fonts: as } }: Outgoing): Promise<OutPlan | undefined> {
  if (as === undefined) return Promise.resolve(undefined);
  return Promise.resolve({
    as,
    converts: (entry) => !isNamedAs(entry, as),
    suffixes: [''],
    async *files({ archive, n }) {
      const { path, bytes: read } = await entrySubject(archive, n);
      const bytes = await read();
      const container = fontContainer(bytes);
      yield container === undefined || container === 'TrueType collection'
        ? fileOf(bytes, [], path.slice(path.lastIndexOf('.')))
        : fileOf(await fontInContainer(bytes, as, path));
    },
  });
}
