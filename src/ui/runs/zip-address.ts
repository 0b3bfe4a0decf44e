/** Where the ZIP of a run that takes out is downloaded. */
export const zipAddress = (gameId: number, run: number): string => `/api/games/${gameId}/take-out/${run}/zip`;
