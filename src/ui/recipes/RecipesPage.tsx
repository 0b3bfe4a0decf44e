'use client';
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { useGame, useRecipes } from '../shared/queries';
import { Part } from '../shared/states';

/** The recipes that ship, with their text and the archives of this game they read. */
export function RecipesPage({ gameId }: { gameId: number }) {
  const { data: recipes } = useRecipes();
  const { data: game } = useGame(gameId);
  const [chosen, setChosen] = useState(0);
  const recipe = recipes?.[chosen];
  if (recipe === undefined) return null;
  const archives = game?.archives.filter((archive) => archive.title === recipe.title) ?? [];
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
      <Box
        component="pre"
        tabIndex={0}
        aria-label={`Text of ${recipe.title}`}
        className="mono"
        sx={{
          flex: 1,
          m: 0,
          overflow: 'auto',
          p: 2,
          background: 'var(--sheet)',
          counterReset: 'line',
          lineHeight: 1.6,
        }}
      >
        {recipe.text.split('\n').map((line, i) => (
          <Box
            key={i}
            component="span"
            sx={{
              display: 'block',
              '&::before': {
                counterIncrement: 'line',
                content: 'counter(line)',
                display: 'inline-block',
                width: 28,
                mr: 1.5,
                textAlign: 'right',
                color: 'var(--dim)',
              },
            }}
          >
            {line === '' ? ' ' : line}
          </Box>
        ))}
      </Box>
      <Box
        component="aside"
        aria-label="About the recipe"
        sx={{ width: 328, flex: 'none', borderLeft: '1px solid var(--line)', p: 2.25, overflow: 'auto' }}
      >
        <Typography variant="h1">{recipe.title}</Typography>
        <Box className="dim" sx={{ mb: 2 }}>
          {recipe.id}, revision {recipe.revision}
        </Box>
        <Part title="Needs">
          {Object.keys(recipe.needs).length === 0
            ? 'no key'
            : Object.entries(recipe.needs).map(([slot, kind]) => (
                <Box key={slot}>{`an ${kind} key for “${slot}”`}</Box>
              ))}
        </Part>
        <Part title="Reads in this game">
          {archives.length === 0 ? (
            <span className="dim">nothing</span>
          ) : (
            archives.map((archive) => <Box key={archive.id}>{archive.path}</Box>)
          )}
        </Part>
        {recipes !== undefined && recipes.length > 1 && (
          <Part title="All recipes">
            {recipes.map((one, i) => (
              <Box
                key={one.id}
                component="button"
                type="button"
                aria-pressed={i === chosen}
                onClick={() => setChosen(i)}
                sx={{
                  all: 'unset',
                  display: 'block',
                  cursor: 'pointer',
                  py: 0.3,
                  fontWeight: i === chosen ? 700 : 400,
                }}
              >
                {one.title}
              </Box>
            ))}
          </Part>
        )}
      </Box>
    </Box>
  );
}
