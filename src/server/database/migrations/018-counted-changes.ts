/** What a page asks of builds and imports all the time is answered without reading all of their rows. */
export const name = '018-counted-changes';

export const up = `
alter table builds
  -- Changes in it, without those that go with another.
  add column change_count integer not null default 0;
update builds b set change_count = (select count(*) from build_changes c where c.build_id = b.id and not c.beside);
create index import_files_by_name on import_files (drop_id, name) where not received;
`;
