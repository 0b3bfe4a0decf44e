import '@fontsource/atkinson-hyperlegible-next/400.css';
import '@fontsource/atkinson-hyperlegible-next/600.css';
import '@fontsource/atkinson-hyperlegible-next/700.css';
import '@fontsource/ibm-plex-mono/400.css';
import InitColorSchemeScript from '@mui/material/InitColorSchemeScript';
import { AppRouterCacheProvider } from '@mui/material-nextjs/v16-appRouter';
import type { Metadata } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import { ROLE_HEADER, TOKEN_HEADER } from '../src/server/access/gate';
import { TOKEN_META } from '../src/ui/access/token-meta';
import { Providers } from '../src/ui/shell/Providers';
import '../src/ui/shell/tokens.css';

export const metadata: Metadata = {
  title: 'Zero Latch',
  description: 'Open game archives, take things out, change them and put them back.',
};

export default async function Layout({ children }: { children: ReactNode }) {
  const said = await headers();
  const nonce = said.get('x-nonce') ?? '';
  const token = said.get(TOKEN_HEADER);
  const role = said.get(ROLE_HEADER);
  return (
    <html lang="en" suppressHydrationWarning>
      <head>{token !== null && <meta name={TOKEN_META} content={token} />}</head>
      <body>
        <InitColorSchemeScript attribute="data-theme" defaultMode="system" nonce={nonce} />
        <AppRouterCacheProvider options={{ nonce }}>
          <Providers role={role === 'full' || role === 'look' ? role : undefined}>{children}</Providers>
        </AppRouterCacheProvider>
      </body>
    </html>
  );
}
