/** What nothing refers to any more is collected: small things are distinguished by when they were last kept. */
export const name = '012-storage';

export const up = `
alter table small_blobs add column kept_at timestamptz not null default now();
`;
