import type { JudgeReport } from '../shapes';

/** A report with the scene as it was before the build. */
export interface TestReport extends JudgeReport {
  readonly before?: JudgeReport['scene'];
  readonly beforeFilm?: JudgeReport['film'];
}

export interface TestOptions {
  readonly signal: AbortSignal;
  /** The game without the build is loaded as well. */
  readonly includeBefore: boolean;
  /** Paths of changed entries that are shown as they are in the game. */
  readonly show: readonly string[];
}
