/** What an import replaced comes back when the import is undone as a whole. */
export const name = '013-imports';

export const up = `
alter table changes
  -- The drop whose change took the place of this one.
  add column set_aside_by integer references drops on delete set null;
create index changes_set_aside on changes (set_aside_by) where set_aside_by is not null;
`;
