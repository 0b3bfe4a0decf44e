'use client';
import { useGame, useRecipes } from '../shared/queries';
import { Empty } from '../shared/states';
import { Workbench } from './Workbench';

/** The workbench: a recipe's text, the bytes of a sample and what they mean, the proof, hints. */
export function RecipesPage({ gameId }: { gameId: number }) {
  const { data: recipes } = useRecipes();
  const { data: game } = useGame(gameId);
  if (recipes === undefined || game === undefined) return null;
  if (recipes.length === 0) return <Empty title="There are no recipes" />;
  return <Workbench gameId={gameId} gameName={game.name} recipes={recipes} archives={game.archives} />;
}
