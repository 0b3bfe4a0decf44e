/** The kinds of entries there are, and what each is called. */

export const KINDS = ['picture', 'sound', 'film', 'words', 'mesh', 'font', 'records', 'bytes'] as const;
export type Kind = (typeof KINDS)[number];

interface KindName {
  /** The folder of entries that have no names of their own. */
  readonly folder: string;
  /** What a file of the kind is, in a sentence. */
  readonly some: string;
}

export const KIND_NAMES: Readonly<Record<Kind, KindName>> = {
  picture: { folder: 'pictures', some: 'a picture' },
  sound: { folder: 'sounds', some: 'a sound' },
  film: { folder: 'films', some: 'a film' },
  words: { folder: 'words', some: 'text' },
  mesh: { folder: 'meshes', some: 'a mesh' },
  font: { folder: 'fonts', some: 'a font' },
  records: { folder: 'records', some: 'records' },
  bytes: { folder: 'bytes', some: 'bytes of no known kind' },
};
