'use client';
import { createContext, useContext } from 'react';
import { TOKEN_META } from './token-meta';

/** The role of the user: `full` may change everything, `look` nothing; undefined where no sign-in is required. */
export type Role = 'full' | 'look' | undefined;

const RoleContext = createContext<Role>(undefined);
export const RoleProvider = RoleContext.Provider;
export const useRole = (): Role => useContext(RoleContext);

/** What every request that changes something carries. */
export function tokenHeaders(): Record<string, string> {
  const token = document.querySelector<HTMLMetaElement>(`meta[name="${TOKEN_META}"]`)?.content ?? '';
  return token === '' ? {} : { 'x-zero-latch-token': token };
}
