/** Saved recipes count in the games they are for, or in all. Those of before were for all. */
export const name = '021-recipes-of-games';

export const up = `
alter table recipes add column everywhere boolean not null default true;
create table recipe_games (
  recipe text not null,
  game_id integer not null references games (id) on delete cascade,
  primary key (recipe, game_id)
);
create index recipe_games_of_games on recipe_games (game_id);
`;
