'use client';
import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider } from '@mui/material/styles';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';
import { RoleProvider, type Role } from '../access/session';
import { ApiFault } from '../shared/api';
import { Notices } from '../shared/notices';
import { theme } from './theme';

export function Providers({ role, children }: { role: Role; children: ReactNode }) {
  const [client] = useState(
    () =>
      new QueryClient({
        defaultOptions: {
          queries: {
            staleTime: 10_000,
            // A server that is starting again answers soon; a fault of the request never changes.
            retry: (count, error) => count < 4 && !(error instanceof ApiFault && error.status < 500),
            retryDelay: (count) => 400 * 2 ** count,
          },
        },
      }),
  );
  return (
    <ThemeProvider theme={theme} defaultMode="system">
      <CssBaseline />
      <QueryClientProvider client={client}>
        <RoleProvider value={role}>
          <Notices>{children}</Notices>
        </RoleProvider>
      </QueryClientProvider>
    </ThemeProvider>
  );
}
