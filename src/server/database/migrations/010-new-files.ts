/** Archives that are to be new in a game's folder; dropped films that wait to be told how they are converted. */
export const name = '010-new-files';

export const up = `
-- Read from keeping: the game itself has no such file.
alter table archives add column is_new boolean not null default false;
alter table arrivals drop constraint arrivals_state_check;
alter table arrivals add constraint arrivals_state_check
  check (state in ('waiting', 'which', 'number', 'nowhere', 'how', 'same', 'refused'));
`;
