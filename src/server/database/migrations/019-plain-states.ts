/** States of incoming files by the words that the pages use. */
export const name = '019-plain-states';

export const up = `
alter table incoming_files drop constraint if exists arrivals_state_check;
alter table incoming_files drop constraint if exists incoming_files_state_check;
update incoming_files set state = case state
  when 'which' then 'ambiguous'
  when 'nowhere' then 'unmatched'
  when 'how' then 'needsOptions'
  when 'number' then 'numbered'
  else state end;
alter table incoming_files add constraint incoming_files_state_check
  check (state in ('waiting', 'ambiguous', 'numbered', 'unmatched', 'needsOptions', 'same', 'refused'));
`;
