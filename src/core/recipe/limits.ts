/** What a recipe and a file may ask for; each limit is named in its error and can be raised for one file. */
export interface Limits {
  /** Plain bytes of one region. */
  readonly maxRegionBytes: number;
  /** Bytes that are fetched at first of what is read on the way. */
  readonly windowBytes: number;
  /** Bytes of an unexplained stretch that are looked into at once. */
  readonly maxWholeBytes: number;
  /** Rows of all tables of an archive together. */
  readonly maxRows: number;
  /** Plain bytes of one entry. */
  readonly maxEntryBytes: number;
  /** Plain bytes of one entry for each stored byte, once it is larger than {@link RATIO_MATTERS_FROM}. */
  readonly maxRatio: number;
  /** Plain bytes of a short stretch whose codec needs them all in memory. */
  readonly maxStretchBytes: number;
  /** Shapes inside shapes. */
  readonly maxDepth: number;
  /** Bytes of one text field. */
  readonly maxTextBytes: number;
  /** Rounds of laying out until nothing moves. */
  readonly maxRounds: number;
  /** Seconds that reading the tables of one archive may take. */
  readonly maxSeconds: number;
}

export const DEFAULT_LIMITS: Limits = {
  maxRegionBytes: 256 << 20,
  windowBytes: 64 << 10,
  maxWholeBytes: 16 << 20,
  maxRows: 3_000_000,
  maxEntryBytes: 8 * 2 ** 30,
  maxRatio: 1_100,
  maxStretchBytes: 128 << 20,
  maxDepth: 64,
  maxTextBytes: 1 << 20,
  maxRounds: 24,
  maxSeconds: 60,
};

/** Below this many plain bytes a high ratio is harmless: a blank picture packs that well. */
export const RATIO_MATTERS_FROM = 64 << 20;
