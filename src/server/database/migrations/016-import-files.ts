/** An import knows which files are to come: one that was cut off while they were sent can be finished. */
export const name = '016-import-files';

export const up = `
create table import_files (
  drop_id integer not null references drops on delete cascade,
  position integer not null,
  -- With the folders it was dropped in.
  name text not null,
  size bigint not null,
  -- The entry it is for, where a person said so.
  path text,
  received boolean not null default false,
  primary key (drop_id, position)
);
alter table drops
  -- When the files were handed to the worker; before that, they are being sent.
  add column started_at timestamptz,
  -- When the last file came.
  add column touched_at timestamptz not null default now();
update drops set started_at = created_at;
create index drops_unfinished on drops (game_id) where started_at is null;
`;
