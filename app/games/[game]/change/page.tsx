import { Suspense } from 'react';
import { ChangeStation } from '../../../../src/ui/change/ChangeStation';

export default async function Page({ params }: { params: Promise<{ game: string }> }) {
  return (
    <Suspense>
      <ChangeStation gameId={Number((await params).game)} />
    </Suspense>
  );
}
