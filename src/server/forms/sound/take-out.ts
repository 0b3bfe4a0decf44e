/** Sounds as files of standard formats. */
import { entrySubject } from '../subject';
import { fileOf, isNamedAs, type Outgoing, type OutPlan } from '../take-out';
import { soundFileAs } from './entry-sound';

export function planSounds({ order }: Outgoing): Promise<OutPlan | undefined> {
  const { sounds: as, trim } = order;
  if (as === undefined) return Promise.resolve(undefined);
  return Promise.resolve({
    as,
    converts: (entry) => !isNamedAs(entry, as) || trim,
    suffixes: [''],
    async *files({ archive, n }) {
      yield fileOf((await soundFileAs(await entrySubject(archive, n), as, order)).bytes);
    },
  });
}
