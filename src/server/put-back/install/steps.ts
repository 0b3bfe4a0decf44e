/** The steps of putting in and taking out, so that a test can end the process at each of them. */

type Watch = (step: string) => void;

let watch: Watch = () => {};

/** @param step what was just done */
export function reached(step: string): void {
  watch(step);
}

/** Only tests watch: the steps themselves are the same. */
export function watchSteps(watching: Watch): void {
  watch = watching;
}
