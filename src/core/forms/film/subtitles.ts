/** Subtitles as files: SubRip (SRT) and WebVTT. */
import { FormatError } from '../../faults';
import type { Subtitle } from './film';

const TIME = /(?:(\d+):)?(\d{1,2}):(\d{1,2})[.,](\d{1,3})/;
const LINE = new RegExp(`^\\s*${TIME.source}\\s*-->\\s*${TIME.source}`);

/**
 * @throws FormatError `wrong-kind` with the line, for times that are none, run backwards or overlap, and for a file with
 * nothing in it
 */
export function readSubtitles(bytes: Uint8Array, file: string): Subtitle[] {
  const wrong = (line: number, what: string, expected?: string, found?: string) =>
    new FormatError({
      code: 'wrong-kind',
      file,
      line,
      what,
      ...(expected === undefined ? {} : { expected }),
      ...(found === undefined ? {} : { found }),
    });
  const text = decoded(bytes, file);
  const lines = text.replace(/^\ufeff/, '').split(/\r?\n/);
  const found: Subtitle[] = [];
  for (let i = 0; i < lines.length; i++) {
    if (!lines[i]!.includes('-->')) continue;
    const times = LINE.exec(lines[i]!);
    if (times === null)
      throw wrong(
        i + 1,
        'these are no times of a subtitle',
        '00:00:01,000 --> 00:00:02,500',
        lines[i]!.trim().slice(0, 60),
      );
    const [from, to] = [millisecondsOf(times.slice(1, 5)), millisecondsOf(times.slice(5, 9))];
    if (to <= from)
      throw wrong(i + 1, 'a subtitle ends before it begins', `later than ${clock(from, ',')}`, clock(to, ','));
    const last = found.at(-1);
    if (last !== undefined && from < last.from)
      throw wrong(
        i + 1,
        'subtitles are not in order of their times',
        `${clock(last.from, ',')} or later`,
        clock(from, ','),
      );
    if (last !== undefined && from < last.to)
      throw wrong(i + 1, 'subtitles overlap', `${clock(last.to, ',')} or later`, clock(from, ','));
    const own: string[] = [];
    while (i + 1 < lines.length && lines[i + 1]!.trim() !== '') own.push(lines[++i]!.trim());
    found.push({ from, to, text: own.join('\n').replace(/<\/?(?:[biu]|font|c|v|lang)[^>]*>/gi, '') });
  }
  if (found.length === 0)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      what: 'there are no subtitles in it',
      expected: 'SRT or WebVTT',
    });
  return found;
}

function decoded(bytes: Uint8Array, file: string): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch (error) {
    throw new FormatError(
      {
        code: 'wrong-kind',
        file,
        expected: 'text in UTF-8',
        found: 'bytes that are none',
        hint: 'Save it again as UTF-8.',
      },
      { cause: error },
    );
  }
}

const millisecondsOf = ([hours = '0', minutes, seconds, parts]: readonly string[]): number =>
  ((Number(hours) * 60 + Number(minutes)) * 60 + Number(seconds)) * 1000 + Number(parts!.padEnd(3, '0'));

function clock(milliseconds: number, point: ',' | '.'): string {
  const two = (value: number) => String(Math.floor(value)).padStart(2, '0');
  const seconds = milliseconds / 1000;
  return `${two(seconds / 3600)}:${two((seconds / 60) % 60)}:${two(seconds % 60)}${point}${String(Math.round(milliseconds % 1000)).padStart(3, '0')}`;
}

export function writeSrt(subtitles: readonly Subtitle[]): string {
  return subtitles
    .map(({ from, to, text }, i) => `${i + 1}\n${clock(from, ',')} --> ${clock(to, ',')}\n${text}\n`)
    .join('\n');
}

export function writeVtt(subtitles: readonly Subtitle[]): string {
  return `WEBVTT\n\n${subtitles.map(({ from, to, text }) => `${clock(from, '.')} --> ${clock(to, '.')}\n${text}\n`).join('\n')}`;
}

/** Texts that have a beginning and no end stand until the next one, or as long as the game lets them. */
export function withEnds(
  texts: readonly { readonly time: number; readonly text: string }[],
  shownFor: number | undefined,
  end: number,
): Subtitle[] {
  return texts.map(({ time, text }, i) => {
    const next = texts[i + 1]?.time ?? Math.max(end, time + 1);
    return {
      from: time,
      to: Math.max(time + 1, shownFor === undefined ? next : Math.min(next, time + shownFor)),
      text,
    };
  });
}
