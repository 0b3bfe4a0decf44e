import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { ComponentProps } from 'react';
import type { RecipeAnswer } from '../../server/shapes';
import { RecipeBar, titleOf } from './RecipeBar';

const recipe: RecipeAnswer = {
  ...{ id: 'small-box', title: 'Small box', revision: 2, collection: null, needs: {}, text: 'recipe: small-box' },
  ...{ fault: null, shipped: true, scope: null, revisions: [] },
};

function shown(more: Partial<ComponentProps<typeof RecipeBar>> = {}) {
  const heard = {
    ...{ onChoose: jest.fn(), onBegin: jest.fn(), onFile: jest.fn() },
    ...{ onTakeAll: jest.fn(), onCompare: jest.fn(), onSample: jest.fn() },
  };
  render(
    <RecipeBar
      recipes={[recipe]}
      recipe={recipe}
      text={recipe.text}
      archives={[]}
      archiveId={undefined}
      {...heard}
      {...more}
    />,
  );
  return heard;
}

test.each([
  [{}, 'Small box · revision 2'],
  [{ shipped: false, scope: { games: [], everywhere: true } }, 'Small box · revision 2, yours'],
  [{ shipped: false, scope: { games: [3], everywhere: false } }, 'Small box · revision 2, yours, in one game'],
  [{ shipped: false, scope: { games: [3, 4], everywhere: false } }, 'Small box · revision 2, yours, in 2 games'],
  [{ shipped: false, scope: { games: [], everywhere: false } }, 'Small box · revision 2, yours, in no game'],
  [{ fault: { code: 'recipe-invalid', sentence: 'x' } }, 'Small box · revision 2, has errors'],
] as const)('a recipe is listed with whose it is and where it counts', (more, title) => {
  expect(titleOf({ ...recipe, ...more } as RecipeAnswer)).toBe(title);
});

test('a file is brought in, and the same one once more', async () => {
  const { onFile } = shown();
  const input = screen.getByLabelText<HTMLInputElement>('Recipe file');
  const file = new File(['recipe: a'], 'all.zip');
  await userEvent.upload(input, file);
  await userEvent.upload(input, file);
  expect(onFile.mock.calls).toEqual([[file], [file]]);
});

test('all recipes of the game go out together; what is not saved is compared with nothing', async () => {
  const { onTakeAll, onBegin } = shown({ recipe: undefined });
  await userEvent.click(screen.getByRole('button', { name: 'Take all out' }));
  await userEvent.click(screen.getByRole('button', { name: 'Write a new one' }));
  expect([onTakeAll.mock.calls.length, onBegin.mock.calls.length]).toEqual([1, 1]);
  expect(screen.getByRole('button', { name: 'Compare' }).hasAttribute('disabled')).toBe(true);
  expect(screen.getByText('not saved yet')).toBeTruthy();
});
