/** Recipes that are passed on together: taken out of a game, and brought into it. */
import { useQueryClient } from '@tanstack/react-query';
import { call } from '../shared/api';
import { download } from '../shared/download';
import { useNotice } from '../shared/notices';
import { useGameMutation } from '../shared/queries';
import { readCollection, writeCollection } from './collection-file';

export function useCollection(gameId: number, gameName: string) {
  const say = useNotice();
  const client = useQueryClient();
  const takeAll = useGameMutation(gameId, async () => {
    const answer = await call('GET games/{game}/recipes', { game: gameId });
    if (answer.recipes.length === 0) return say({ tone: 'info', text: 'This game uses no recipes yet.' });
    download(await writeCollection(gameName, answer), `${gameName} recipes.zip`);
  });
  const bringAll = useGameMutation(gameId, async ({ file, everywhere }: { file: Blob; everywhere: boolean }) => {
    const body = { texts: await readCollection(file), everywhere };
    const { saved, leftOut } = await call('POST games/{game}/recipes', { game: gameId, body });
    await client.invalidateQueries({ queryKey: ['recipes'] });
    const reasons = leftOut.map(({ id, reason }) => `${id}: ${reason}`).join('; ');
    const next = saved.length > 0 ? ' Scan the folder to use them.' : '';
    say({
      tone: leftOut.length > 0 ? 'info' : 'success',
      text: `${saved.length} recipes saved.${next}${reasons === '' ? '' : ` Not saved: ${reasons}`}`,
    });
  });
  return { takeAll, bringAll };
}
