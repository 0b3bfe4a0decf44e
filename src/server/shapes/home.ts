/** What the application's own folder holds. */

export interface HomePart {
  readonly id: string;
  readonly name: string;
  readonly bytes: number;
  readonly files: number;
  /** Bytes that freeing space would give back. */
  readonly frees: number;
}

export interface HomeBuild {
  readonly id: number;
  readonly number: number;
  readonly game: { readonly id: number; readonly name: string };
  readonly createdAt: string;
  /** Bytes of all its files, and of those that only it refers to. */
  readonly bytes: number;
  readonly frees: number;
  /** It is in the game, and cannot be deleted. */
  readonly isIn: boolean;
}

export interface HomeAnswer {
  readonly home: string;
  /** Bytes that are free where the home lies. */
  readonly free: number;
  readonly parts: readonly HomePart[];
  readonly builds: readonly HomeBuild[];
}

/** What was on disk when it was added up last, and when that was; null before the first time. */
export interface MeasuredHome {
  readonly home: HomeAnswer | null;
  readonly at: string | null;
}
