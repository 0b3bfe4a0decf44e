/** Films that a recipe describes: an archive whose entries are packets. */
import { FormatError } from '../../faults';
import { entryValue, rowValues, type Archive } from '../../recipe';
import { STREAM_KINDS, type Film, type FilmPacket, type FilmStream, type StreamKind } from './film';

/**
 * The film of an archive; undefined when its recipe says nothing of one.
 *
 * @throws FormatError `wrong-kind` for a stream of no known kind, or a packet of a stream that is not there
 */
export function filmOf(archive: Archive): Film | undefined {
  const rule = archive.recipe.entries.film;
  if (rule === undefined) return undefined;
  const wrong = (field: string, expected: string, found: string) =>
    new FormatError({
      code: 'wrong-kind',
      file: archive.source.name,
      recipe: archive.recipe.id,
      line: rule.line,
      field,
      expected,
      found,
    });
  const { each, is, codec, locale, rate, channels, block, width, height, folder } = rule.streams;
  const optional = [locale, rate, channels, block, width, height];
  const packets: FilmPacket[][] = [];
  const streams = rowValues(archive, each, [is, codec, ...optional.map((one) => one ?? folder)]).map(
    ([kind, packed, ...rest], number): FilmStream => {
      const [language, ticks, lanes, bytes, across, along] = optional.map((one, i) =>
        one === undefined ? undefined : rest[i],
      );
      if (!(STREAM_KINDS as readonly unknown[]).includes(kind))
        throw wrong(`stream ${number}`, STREAM_KINDS.join(', '), String(kind));
      packets.push([]);
      return {
        number,
        is: kind as StreamKind,
        codec: String(packed),
        locale: String(language ?? ''),
        rate: Number(ticks ?? 0),
        channels: Number(lanes ?? 1),
        block: bytes === undefined ? undefined : Number(bytes),
        width: Number(across ?? 0),
        height: Number(along ?? 0),
        packets: packets[number]!,
      };
    },
  );
  const { entries } = archive;
  for (let n = 0; n < entries.count; n++) {
    if (entries.isDeleted(n)) continue;
    const stream = Number(entryValue(archive, n, rule.stream));
    const list = packets[stream];
    if (list === undefined) throw wrong(entries.path(n), `one of ${streams.length} streams`, String(stream));
    list.push({ n, path: entries.path(n), time: Number(entryValue(archive, n, rule.time)), size: entries.size(n) });
  }
  for (const list of packets) list.sort((a, b) => a.time - b.time);
  const shownFor =
    rule.shownFor === undefined || entries.count === 0 ? undefined : Number(entryValue(archive, 0, rule.shownFor));
  return { streams, shownFor, seconds: filmSeconds(streams, shownFor) };
}

/** How long all streams together last. */
export const filmSeconds = (streams: readonly FilmStream[], shownFor: number | undefined): number =>
  Math.max(0, ...streams.map((stream) => endOf(stream, shownFor ?? 0))) / 1000;

/** When a stream has ended: its last packet lasts as long as the one before. */
function endOf({ packets, is, rate }: FilmStream, shownFor: number): number {
  const last = packets.at(-1);
  if (last === undefined) return 0;
  if (is === 'subtitles') return last.time + shownFor;
  if (is === 'pictures' && rate > 0) return last.time + 1000 / rate;
  return last.time + (last.time - (packets.at(-2)?.time ?? last.time));
}

/** What a packet of a stream is called in its archive. */
export function packetPath(archive: Archive, stream: number, time: number): string {
  const { digits } = archive.recipe.entries.film!;
  const { folder, ending } = namesOf(archive)[stream]!;
  return `${folder}/${String(Math.round(time)).padStart(digits, '0')}${ending}`;
}

/** The stream and the time in the name of a packet; undefined for what is no such name. */
export function packetPlace(archive: Archive, path: string): { stream: number; time: number } | undefined {
  const slash = path.lastIndexOf('/');
  const stream = namesOf(archive).findIndex(
    ({ folder, ending }) => path.slice(0, slash) === folder && path.endsWith(ending),
  );
  const time = /^(\d+)\.?[^.]*$/.exec(path.slice(slash + 1))?.[1];
  return stream < 0 || time === undefined ? undefined : { stream, time: Number(time) };
}

function namesOf(archive: Archive): { folder: string; ending: string }[] {
  const { streams } = archive.recipe.entries.film!;
  return rowValues(archive, streams.each, [streams.folder, streams.ending]).map(([folder, ending]) => ({
    folder: String(folder),
    ending: String(ending),
  }));
}
