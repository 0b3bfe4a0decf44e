import { TakeOutStation } from '../../../../src/ui/take-out/TakeOutStation';

export default async function Page({ params }: { params: Promise<{ game: string }> }) {
  return <TakeOutStation gameId={Number((await params).game)} />;
}
