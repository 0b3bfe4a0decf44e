import { Suspense } from 'react';
import { WordsView } from '../../../../src/ui/words/WordsView';

export default async function Page({ params }: { params: Promise<{ game: string }> }) {
  return (
    <Suspense>
      <WordsView gameId={Number((await params).game)} />
    </Suspense>
  );
}
