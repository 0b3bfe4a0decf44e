/** Columns are called what a reader expects. */
export const name = '017-names';

export const up = `
alter table arrivals rename to incoming_files;
alter table incoming_files rename column wishes to fit_options;
alter table changes rename column wishes to fit_options;
alter table changes rename column set_aside_by to superseded_by;
alter table changes rename column stands to status;
update archives set found = found - 'unlooked' || '{"notYetCarved": true}' where found ? 'unlooked';
update runs set kind = 'estimate' where kind = 'weigh';
`;
