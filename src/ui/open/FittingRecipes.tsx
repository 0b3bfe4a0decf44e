'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { ArchiveAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { useGameMutation } from '../shared/queries';

/** Which of several fitting recipes the file is read with; the reasons are shown, the choice is the person's. */
export function FittingRecipes({ gameId, archive }: { gameId: number; archive: ArchiveAnswer }) {
  const choose = useGameMutation(gameId, (recipe: string) =>
    call('PUT games/{game}/archives/{archive}/recipe', { game: gameId, archive: archive.id, body: { recipe } }),
  );
  return (
    <Box
      component="ul"
      aria-label={`Recipes that fit ${archive.path}`}
      sx={{ listStyle: 'none', p: 0, m: 0, mt: 0.75, ml: 8 }}
    >
      {archive.fits.map(({ recipe, title, reason }) => {
        const chosen = archive.recipe === recipe;
        return (
          <Box component="li" key={recipe} sx={{ display: 'flex', alignItems: 'center', gap: 1, py: 0.25 }}>
            <Button
              size="small"
              variant={chosen ? 'contained' : 'outlined'}
              disabled={choose.isPending}
              aria-pressed={chosen}
              onClick={() => choose.mutate(recipe)}
            >
              {title}
            </Button>
            <span className="dim">{reason}</span>
          </Box>
        );
      })}
    </Box>
  );
}
