'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';
import type { ArchiveAnswer, ArchiveNews } from '../../server/shapes';
import { count } from '../shared/format';

const SIGNS: Readonly<Record<ArchiveNews['samples'][number]['what'], string>> = {
  added: '+',
  changed: '≠',
  gone: '−',
};

/** What a game update changed in an archive, in one line; which entries, on request. */
export function NewsLine({ archive }: { archive: ArchiveAnswer }) {
  const [open, setOpen] = useState(false);
  const news = archive.news!;
  const parts = [
    ...(news.added > 0 ? [`${count(news.added)} new`] : []),
    ...(news.changed > 0 ? [`${count(news.changed)} changed`] : []),
    ...(news.gone > 0 ? [`${count(news.gone)} gone`] : []),
  ];
  const total = news.added + news.changed + news.gone;
  return (
    <Box sx={{ ml: 8, mt: 0.5, fontSize: 12 }} aria-label={`News of ${archive.path}`} role="group">
      <span style={{ color: 'var(--brass)' }}>
        {news.since === null ? 'Since it changed' : `Since build ${news.since}`}:{' '}
        {parts.length === 0 ? 'no entry differs' : parts.join(', ')}
      </span>
      {total > 0 && (
        <Button
          variant="text"
          aria-expanded={open}
          sx={{ p: 0, ml: 1, fontSize: 12, minWidth: 0 }}
          onClick={() => setOpen(!open)}
        >
          {open ? 'Hide them' : 'Which?'}
        </Button>
      )}
      {open && (
        <Box component="ul" sx={{ listStyle: 'none', p: 0, m: 0, mt: 0.5, maxHeight: 160, overflow: 'auto' }}>
          {news.samples.map(({ path, what }) => (
            <li key={path} className="mono">
              <span title={what}>{SIGNS[what]}</span> {visible(path)}
            </li>
          ))}
          {total > news.samples.length && <li className="dim">and {count(total - news.samples.length)} more</li>}
        </Box>
      )}
    </Box>
  );
}
