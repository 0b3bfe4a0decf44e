import type { ReactNode } from 'react';
import { Shell } from '../../../src/ui/shell/Shell';

export default async function Layout({ children, params }: { children: ReactNode; params: Promise<{ game: string }> }) {
  return <Shell gameId={Number((await params).game)}>{children}</Shell>;
}
