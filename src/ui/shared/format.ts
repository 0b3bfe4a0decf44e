import dayjs from 'dayjs';
import prettyBytes from 'pretty-bytes';

/** `36.2 MB`: three digits, decimal units, as disks and downloads count. */
export function size(bytes: number): string {
  return prettyBytes(bytes);
}

export function count(number: number): string {
  return number.toLocaleString('en');
}

/** `1 entry`, `2 entries`. */
export function counted(number: number, one: string, many = `${one}s`): string {
  return `${count(number)} ${number === 1 ? one : many}`;
}

/** `0x1A4_2C00`: hex in groups of four from the right. */
export function offset(bytes: number): string {
  const hex = bytes.toString(16).toUpperCase().padStart(4, '0');
  return `0x${hex.replace(/\B(?=([0-9A-F]{4})+$)/g, '_')}`;
}

/** `21 Nov, 18:04`. */
export function when(iso: string): string {
  return dayjs(iso).format('D MMM, HH:mm');
}

/** A name without its ending. */
export const stemOf = (name: string): string => name.replace(/\.[^.]*$/, '');

export function fileName(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}

export function folderOf(path: string): string {
  return path.slice(0, Math.max(0, path.lastIndexOf('/')));
}

/** A kind of key as people say it: `aes-256`, `bytes(8)`, `text`. */
export function keyWords(kind: string): string {
  const bytes = /^bytes\((\d+)\)$/.exec(kind);
  if (bytes !== null) return `a key of ${bytes[1]} bytes`;
  return kind === 'text' ? 'a key in words' : `an ${kind} key`;
}

/** `40 s`, `3 min`, `2 h 5 min`. */
export function duration(seconds: number): string {
  if (seconds < 90) return `${Math.round(seconds)} s`;
  const minutes = Math.round(seconds / 60);
  if (minutes < 60) return `${minutes} min`;
  return minutes % 60 === 0 ? `${minutes / 60} h` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}
