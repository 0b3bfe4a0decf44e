import { RecipesPage } from '../../../../src/ui/recipes/RecipesPage';

export default async function Page({ params }: { params: Promise<{ game: string }> }) {
  return <RecipesPage gameId={Number((await params).game)} />;
}
