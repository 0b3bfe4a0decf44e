import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { EntryDetails } from '../../server/shapes';
import { formView } from '../forms';
import { Fact } from '../shared/Fact';
import { offset, size } from '../shared/format';
import type { Which } from './CompareDialog';

interface Props {
  readonly entry: EntryDetails;
  readonly onGo: (path: string) => void;
  readonly onCompare: (left: Which, right: Which) => void;
}

/** What its form says of an entry, where it comes from, and where its bytes are. */
export function EntryFacts({ entry, onGo, onCompare }: Props) {
  const form = formView(entry.facts?.form ?? entry.kind);
  return (
    <Box
      component="dl"
      sx={{
        display: 'grid',
        gridTemplateColumns: '84px 1fr',
        rowGap: 0.5,
        my: 1.5,
        '& dt': { color: 'var(--dim)' },
        '& dd': { m: 0, overflowWrap: 'anywhere' },
      }}
    >
      {entry.facts !== null && form?.Facts !== undefined && <form.Facts facts={entry.facts} onGo={onGo} />}
      <Fact name="Comes from">
        {entry.archivePath}
        {entry.covers.length > 0 && (
          <>
            <span className="dim"> over {entry.covers.map(({ path }) => path).join(', ')}</span>{' '}
            <Button
              variant="inline"
              onClick={() => onCompare(entry.covers.at(-1)!, { archive: entry.archive, n: entry.n })}
            >
              Compare
            </Button>
          </>
        )}
        {entry.elsewhere.map((other) => (
          <div key={other.game}>
            <span className="dim">also in {other.name}</span>{' '}
            <Button variant="inline" onClick={() => onCompare({ archive: entry.archive, n: entry.n }, other)}>
              Compare
            </Button>
          </div>
        ))}
        {entry.role === 'covered' && <div>{entry.coveredBy ?? 'Another entry'} covers it.</div>}
        {entry.role === 'removes' && <div>Marks the entry as removed.</div>}
      </Fact>
      {entry.linkTo === null ? (
        <>
          <Fact name="Stored">
            {entry.stored === entry.size ? size(entry.size) : `${size(entry.stored)} of ${size(entry.size)}`},{' '}
            {entry.method}
          </Fact>
          <Fact name="Bytes at">
            <span className="mono">
              {offset(entry.at)} – {offset(Math.max(entry.at, entry.at + entry.stored - 1))}
            </span>
            {entry.volume > 0 && <span className="dim"> of {entry.file}</span>}
            {entry.volume < 0 && <span className="dim"> of the unlocked bytes</span>}
          </Fact>
        </>
      ) : (
        <Fact name="Link to">
          <span className="mono">{visible(entry.linkTo)}</span>
          <div className="dim">It has the bytes of that entry; a file for it changes that entry.</div>
        </Fact>
      )}
      {(entry.locked.index || entry.locked.entry) && <Fact name="Locked">{lockWords(entry.locked)}</Fact>}
    </Box>
  );
}

function lockWords({ index, entry }: EntryDetails['locked']): string {
  const parts = [...(index ? ['the index'] : []), ...(entry ? ['the entry'] : [])];
  return `${parts.join(' and ')}, with a key`;
}
