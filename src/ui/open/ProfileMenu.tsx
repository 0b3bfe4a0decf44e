'use client';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useRef, useState } from 'react';
import type { GameAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { FilePick } from '../shared/FilePick';
import { counted } from '../shared/format';
import { useNotice } from '../shared/notices';
import { useGameMutation } from '../shared/queries';

/** How the game is set up, as one file to pass on: no keys, no game data. */
export function ProfileMenu({ game }: { game: GameAnswer }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const say = useNotice();
  const take = useGameMutation(game.id, async (chosen: File) => {
    let body: unknown;
    try {
      body = JSON.parse(await chosen.text());
    } catch {
      throw new Error(`${chosen.name} is no profile: it is not JSON.`);
    }
    const taken = await call('PUT games/{game}/profile', { game: game.id, body });
    const lines = [
      `The settings of ${chosen.name} are now used`,
      counted(taken.recipes, 'recipe') + ' and ' + counted(taken.nameLists, 'name list') + ' were new',
      ...taken.notes,
    ];
    say({ tone: 'success', text: `${lines.join('; ')}.` });
  });
  return (
    <>
      <Button onClick={(event) => setAnchor(event.currentTarget)} aria-haspopup="menu">
        Profile
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem
          component="a"
          href={`/api/games/${game.id}/profile`}
          download={`${game.name}.profile.json`}
          onClick={() => setAnchor(null)}
        >
          Save this game’s profile as a file
        </MenuItem>
        <MenuItem
          onClick={() => {
            setAnchor(null);
            file.current?.click();
          }}
        >
          Import a profile…
        </MenuItem>
      </Menu>
      <FilePick
        pickRef={file}
        label="A profile file"
        testId="profile-file"
        accept=".json,application/json"
        onPick={(chosen) => take.mutate(chosen)}
      />
    </>
  );
}
