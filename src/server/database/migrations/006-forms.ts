/** Forms: a picture may lie in several entries, which change together. */
export const name = '006-forms';

export const up = `
alter table changes
  -- The change this one goes with: it is undone and brought back with it, and not listed by itself.
  add column with_id integer references changes on delete cascade;
create index changes_with on changes (with_id) where with_id is not null;
`;
