/** Files that several recipes fit, deletion markers, and archives of several files. */
export const name = '003-fits';

export const up = `
alter table archives
  add column fits jsonb not null default '[]',
  -- The files of an archive as they were read, the main one first.
  add column volumes jsonb not null default '[]',
  -- Which of several fitting recipes a person chose.
  add column chosen text,
  drop constraint archives_state_check,
  add constraint archives_state_check check (state in ('open', 'locked', 'unknown', 'damaged', 'unsure'));
alter table entries
  -- A marker of a patch: the entry of that path in the archives before is gone.
  add column deleted boolean not null default false,
  -- 0 is the main file; -1 where the offset counts in unlocked bytes, and not in a file.
  add column volume integer not null default 0;
-- Entries and archives are made again by the next scan.
update archives set modified = 0;
`;
