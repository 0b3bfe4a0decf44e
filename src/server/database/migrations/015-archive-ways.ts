/** Each archive can be built in a way of its own. */
export const name = '015-archive-ways';

export const up = `
alter table builds
  -- Archives that were built in another way, by their paths in the game's folder.
  add column archives jsonb not null default '{}';
-- What was worked out of ways does not say yet which archives it is about: it is worked out again.
update games set ways = null;
`;
