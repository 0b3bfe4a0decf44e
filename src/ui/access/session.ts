'use client';
import { createContext, useContext } from 'react';
import { TOKEN_META } from './token-meta';

/** Who looks at the pages: `full` everything, `look` nothing is changed; none where no one has to sign in. */
export type Role = 'full' | 'look' | undefined;

const RoleContext = createContext<Role>(undefined);
export const RoleProvider = RoleContext.Provider;
export const useRole = (): Role => useContext(RoleContext);

/** What every request that changes something carries. */
export function tokenHeaders(): Record<string, string> {
  const token = document.querySelector<HTMLMetaElement>(`meta[name="${TOKEN_META}"]`)?.content ?? '';
  return token === '' ? {} : { 'x-zero-latch-token': token };
}
