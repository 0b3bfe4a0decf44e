/** What there is to choose before a film is converted, and how large each choice makes it. */
import { bytesByQuality } from '../../../core/forms/film/out-formats';
import { streamsOf } from '../../../core/forms/film';
import type { FilmChoices } from '../../shapes';
import { blobIn, filmSource, withTempDir } from './film-source';
import { probedOnce } from './film-service';
import { bitsOf, isLossy } from './picture-codecs';
import { probeFilm } from '../../../programs';

/**
 * @param given the blob of the file that is to take a film's place, or that of its packets
 * @returns undefined where nothing can be chosen: it brings no pictures, or the game keeps them without loss
 */
export async function filmChoices(
  archive: number,
  n: number,
  given: string,
  fileName: string,
): Promise<FilmChoices | undefined> {
  const source = await filmSource(archive, n);
  const found = await withTempDir(async (room) => probeFilm(await blobIn(given, fileName, room)));
  const brings = (is: 'pictures' | 'sound') => found?.streams.some((stream) => stream.is === is) === true;
  if (found === undefined || !brings('pictures')) return undefined;
  const was = source.is === 'packets' ? packetFacts() : await fileFacts();
  if (was === undefined) return undefined;
  const { bits, ...facts } = was;
  return { ...facts, seconds: found.seconds, sound: brings('sound'), sizes: bytesByQuality(bits, found.seconds) };

  function packetFacts() {
    if (source.is !== 'packets') return undefined;
    const [pictures] = streamsOf(source.film, 'pictures');
    if (pictures === undefined || !isLossy(pictures)) return undefined;
    const { codec, rate } = pictures;
    return { codec, rate, before: source.film.seconds, bits: bitsOf(pictures) };
  }

  async function fileFacts() {
    if (source.is !== 'file') return undefined;
    const probed = await probedOnce(source);
    const pictures = probed?.streams.find(({ is }) => is === 'pictures');
    if (probed === undefined || pictures === undefined) return undefined;
    return { codec: pictures.codec, rate: pictures.rate, before: probed.seconds, bits: probed.bits };
  }
}
