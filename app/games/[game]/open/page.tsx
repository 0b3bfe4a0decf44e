import { OpenStation } from '../../../../src/ui/open/OpenStation';

export default async function Page({ params }: { params: Promise<{ game: string }> }) {
  return <OpenStation gameId={Number((await params).game)} />;
}
