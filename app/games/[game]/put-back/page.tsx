import { PutBackStation } from '../../../../src/ui/put-back/PutBackStation';

export default async function Page({ params }: { params: Promise<{ game: string }> }) {
  return <PutBackStation gameId={Number((await params).game)} />;
}
