import { Suspense } from 'react';
import { RecordsView } from '../../../../src/ui/records/RecordsView';

export default async function Page({ params }: { params: Promise<{ game: string }> }) {
  return (
    <Suspense>
      <RecordsView gameId={Number((await params).game)} />
    </Suspense>
  );
}
