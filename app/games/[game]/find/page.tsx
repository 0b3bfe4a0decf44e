import { Suspense } from 'react';
import { FindStation } from '../../../../src/ui/find/FindStation';

export default async function Page({ params }: { params: Promise<{ game: string }> }) {
  return (
    <Suspense>
      <FindStation gameId={Number((await params).game)} />
    </Suspense>
  );
}
