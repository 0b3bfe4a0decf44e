/** The changes of a build are rows, and every reference and filter has its constraint and index. */
export const name = '014-build-changes';

export const up = `
create table build_changes (
  build_id integer not null references builds on delete cascade,
  -- In the order in which they were made.
  position integer not null,
  path text not null,
  -- Empty where an entry is removed.
  blob text not null,
  size bigint,
  file_name text,
  kind text,
  action text,
  -- The archive a new entry goes into, by its path in the game's folder.
  into_archive text,
  loop jsonb,
  base text,
  -- The mod it came with, by its name.
  mod text,
  -- It goes with another change, and is not listed by itself.
  beside boolean not null default false,
  primary key (build_id, position)
);
insert into build_changes
  select b.id, c.position - 1, r.path, coalesce(r.blob, ''), r.size, r."fileName", r.kind, r.action, r."into", r.loop,
    r.base, r.mod, coalesce(r.beside, false)
  from builds b, jsonb_array_elements(b.changes) with ordinality as c (change, position),
    jsonb_to_record(c.change) as r (path text, blob text, size bigint, "fileName" text, kind text, action text,
      "into" text, loop jsonb, base text, mod text, beside boolean);
alter table builds drop column changes, drop column told, drop column first;

create index installs_by_build on installs (build_id);
create index installs_by_game on installs (game_id, state);
create index keys_by_game on keys (game_id);
create index changes_by_game on changes (game_id, id);
create index drops_by_game on drops (game_id);
create index arrivals_by_import on arrivals (drop_id);
create index name_lists_by_game on name_lists (game_id);
create index names_by_list on names (list_id);
create index runs_by_state on runs (state) where state in ('waiting', 'working', 'stopping', 'interrupted');
`;
