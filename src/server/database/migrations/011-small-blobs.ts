/** Small things that are kept by the thousand, such as texts: a file for each costs more than what is in it. */
export const name = '011-small-blobs';

export const up = `
create table small_blobs (
  sha256 bytea primary key,
  bytes bytea not null
);
`;
