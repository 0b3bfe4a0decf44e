/** Recipes that people write, each revision kept. */
export const name = '002-recipes';

export const up = `
create table recipes (
  recipe text not null,
  revision integer not null check (revision > 0),
  text text not null,
  created_at timestamptz not null default now(),
  primary key (recipe, revision)
);
`;
