/** What rows tell of entries as sounds, films, texts or languages. */
import type { TextCodec } from '../kinds/text-codec';
import type { Formula } from './formula';
import type { Binding } from './entries';

/** What a row, or an entry itself, states about a sound. */
export interface SoundRule {
  readonly line: number;
  readonly codec: Formula;
  readonly rate: Formula;
  readonly channels: Formula | undefined;
  readonly block: Formula | undefined;
  readonly loop: Formula | undefined;
  readonly loopStart: Formula | undefined;
  readonly loopEnd: Formula | undefined;
  /** Samples of each channel that the game takes at most. */
  readonly most: Formula | undefined;
  /** Samples of each channel, where the last block holds more. */
  readonly samples: Formula | undefined;
}

/** What the fields of an entry tell of it as a sound. */
export interface RecipeSoundRule extends SoundRule {
  /** The region with its samples. */
  readonly from: number;
}

/** What the row of an entry states about a packet of a film. */
export interface FilmRule {
  readonly line: number;
  /** Of a packet. */
  readonly stream: Formula;
  readonly time: Formula;
  readonly shownFor: Formula | undefined;
  readonly streams: {
    readonly each: Binding;
    readonly is: Formula;
    readonly codec: Formula;
    readonly locale: Formula | undefined;
    readonly rate: Formula | undefined;
    readonly channels: Formula | undefined;
    readonly block: Formula | undefined;
    readonly width: Formula | undefined;
    readonly height: Formula | undefined;
    readonly folder: Formula;
    readonly ending: Formula;
  };
  readonly digits: number;
}

/** What the row of an entry states about a text. */
export interface WordsRule {
  readonly line: number;
  readonly locale: Formula;
  /** The name of the entry without it. */
  readonly key: Formula | undefined;
  readonly most: Formula | undefined;
  readonly text: TextCodec;
}

/** Entries that are the languages a game offers. */
export interface LanguagesRule {
  readonly code: Formula;
}
