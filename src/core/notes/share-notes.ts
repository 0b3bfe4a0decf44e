/** Why a change went into a mod file as it did, or was left out. */
import { z } from 'zod';
import { note } from './note';

const gameShare = (percent: number): string => `${percent} % of its content is the game’s`;

export const SHARE_NOTES = {
  'share-own': note({}, () => 'it is your own'),
  'share-removal': note({}, () => 'it names what will be removed'),
  'share-difference': note({ percent: z.number() }, ({ percent }) => gameShare(percent)),
  'share-original-unknown': note({}, () => 'what it replaces is unknown; scan the folder to find out'),
  'share-unchanged': note({}, () => 'the game has the same'),
  'share-copy': note({ entry: z.string() }, ({ entry }) => `it is identical to ${entry} of the game`),
  'share-mostly-game': note(
    { percent: z.number() },
    ({ percent }) => `${gameShare(percent)}; only the difference can be passed on`,
  ),
} as const;
