import { z } from 'zod';

/** What someone types to sign in. */
export const signInOrder = z.strictObject({ passphrase: z.string().min(1).max(1_000) });
