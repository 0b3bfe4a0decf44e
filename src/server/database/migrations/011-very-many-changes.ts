/** A table of texts is changed by the hundred thousand. */
export const name = '011-very-many-changes';

export const up = `
-- Small things that come by the thousand: a file for each costs more than what is in it.
create table small_blobs (
  sha256 bytea primary key,
  bytes bytea not null
);

-- The language of a table of texts, so that a list of tables need not read any.
alter table archives add column locale text;

-- What a page shows of the changes of a build, so that it need not read all of them.
alter table builds
  add column told integer not null default 0,
  add column first jsonb not null default '[]';
update builds b set
  told = (select count(*) from jsonb_array_elements(b.changes) c where c->>'beside' is distinct from 'true'),
  first = coalesce((
    select jsonb_agg(jsonb_build_object('path', c->'path', 'action', coalesce(c->'action', '"replace"'), 'mod', c->'mod'))
    from (select c from jsonb_array_elements(b.changes) c where c->>'beside' is distinct from 'true' limit 30) as listed
  ), '[]');
`;
