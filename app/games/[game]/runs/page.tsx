import { RunsPage } from '../../../../src/ui/runs/RunsPage';

export default async function Page({ params }: { params: Promise<{ game: string }> }) {
  return <RunsPage gameId={Number((await params).game)} />;
}
