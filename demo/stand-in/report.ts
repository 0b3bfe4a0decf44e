/** What the stand-in game says about a load: steps it did, and what stopped it. */

/** `stop` keeps the game on its loading screen; `note` is seen or heard in the game. */
export interface Finding {
  readonly severity: 'stop' | 'note';
  /** Short and stable, such as `HOLD-MAGIC`. */
  readonly code: string;
  readonly file: string;
  readonly entry?: string;
  /** Byte offset in the file, or in the entry's bytes when `entry` is set. */
  readonly offset: number;
  /** The rule that was broken, as a sentence. */
  readonly rule: string;
  readonly found: string;
}

export interface Step {
  readonly what: string;
  readonly count: number;
  readonly milliseconds: number;
}

export interface LoadedFile {
  readonly file: string;
  /** Which of the folders it came from, counted from 0. */
  readonly folder: number;
  readonly entries: number;
  readonly bytes: number;
}

/** The title scene as the game would show it. */
export interface Scene {
  readonly livery: { readonly path: string; readonly from: string; readonly bytes: Buffer };
  readonly tannoy: { readonly path: string; readonly from: string; readonly bytes: Buffer };
  readonly caption: string;
  readonly language: string;
}

/** A film as the game plays it. */
export interface Film {
  readonly file: string;
  /** Frames a second, as PNG. */
  readonly rate: number;
  readonly frames: readonly Buffer[];
  readonly soundRate: number;
  readonly samples: Int16Array;
  /** By language; times in milliseconds. */
  readonly subtitles: ReadonlyMap<string, readonly { readonly time: number; readonly text: string }[]>;
}

/** An entry as it is seen or heard in the game. */
export interface Shown {
  readonly path: string;
  readonly from: string;
  readonly what:
    | { readonly is: 'picture'; readonly width: number; readonly height: number; readonly rgba: Buffer }
    | { readonly is: 'sound'; readonly rate: number; readonly samples: Int16Array }
    /** PNG or WAVE already. */
    | { readonly is: 'file'; readonly bytes: Buffer };
}

export interface Report {
  /** False when the game stays on its loading screen. */
  readonly started: boolean;
  readonly steps: readonly Step[];
  readonly findings: readonly Finding[];
  readonly files: readonly LoadedFile[];
  readonly scene: Scene | undefined;
  /** The one that is played behind the title. */
  readonly film: Film | undefined;
  /** What was asked for, as far as the game shows such things. */
  readonly shown: readonly Shown[];
}

/** Thrown where a game would stop loading. */
export class LoadStop extends Error {
  constructor(readonly finding: Omit<Finding, 'severity'>) {
    super(finding.rule);
  }
}
