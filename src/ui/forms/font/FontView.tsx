'use client';
import Box from '@mui/material/Box';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import type { FormFacts } from '../../../server/shapes';
import { Chip } from '../../shared/Chip';
import { count, counted } from '../../shared/format';
import { useSettled } from '../../shared/use-settled';
import { useStoredState } from '../../shared/use-stored-state';
import type { ViewProps } from '../form-view';
import { FontLine } from './FontLine';

const SIZES = [16, 32, 64, 128] as const;

/** A font: any line drawn in it, what it is, and which letters it has. */
export function FontView({ facts, subject, large }: ViewProps) {
  if (facts?.form !== 'font') return <FontLine subject={subject} text="" size={large ? 64 : 32} />;
  return <KnownFont facts={facts} subject={subject} large={large} />;
}

type FontFacts = Extract<FormFacts, { form: 'font' }>;

function KnownFont({ facts, subject, large }: { facts: FontFacts } & Pick<ViewProps, 'subject' | 'large'>) {
  // The line that was typed is what one wants to see in the next font too.
  const [typed, setTyped] = useStoredState('font-line', '');
  const [size, setSize] = useState<number>(large ? 64 : 32);
  const text = useSettled(typed);
  const { packing, family, style, characters, glyphs, fixedSize, lineHeight, coverage, pages } = facts;
  return (
    <Box sx={{ display: 'grid', gap: 1.25 }}>
      <FontLine subject={subject} text={text} size={fixedSize ?? size} isOutline={fixedSize === null} />
      <TextField
        fullWidth
        size="small"
        label="Text in this font"
        placeholder="A sample of its letters"
        value={typed}
        onChange={(event) => setTyped(event.target.value.slice(0, 400))}
      />
      {fixedSize === null && (
        <Box sx={{ display: 'flex', gap: 0.75 }} role="group" aria-label="Size">
          {SIZES.map((one) => (
            <Chip key={one} on={size === one} onClick={() => setSize(one)}>
              {one} px
            </Chip>
          ))}
        </Box>
      )}
      <Box>
        {[family, style].filter((part) => part !== '').join(', ')}
        <Box className="dim">
          {packing}, {counted(characters, 'character')} by {counted(glyphs, 'glyph')}, lines{' '}
          {fixedSize === null
            ? `${Math.round(lineHeight * 100)} % of the size apart`
            : `${count(Math.round(lineHeight * fixedSize))} px apart, letters of ${count(fixedSize)} px`}
        </Box>
        {pages.length > 0 && <Box className="dim mono">{pages.join(', ')}</Box>}
      </Box>
      <Coverage coverage={coverage} />
    </Box>
  );
}

/** How much of each block of Unicode the font has. */
function Coverage({ coverage }: Pick<FontFacts, 'coverage'>) {
  return (
    <Box component="table" aria-label="Letters by script" sx={{ borderSpacing: 0, width: '100%' }}>
      <tbody>
        {coverage.map(({ block, has, of }) => (
          <tr key={block}>
            <Box component="th" scope="row" sx={{ fontWeight: 400, textAlign: 'left', py: 0.25, pr: 1 }}>
              {block}
            </Box>
            <Box component="td" sx={{ width: 70 }}>
              <Box sx={{ height: 6, borderRadius: 3, background: 'var(--line)' }} aria-hidden>
                <Box sx={{ height: 6, borderRadius: 3, background: 'var(--teal)', width: `${(100 * has) / of}%` }} />
              </Box>
            </Box>
            <Box component="td" className="dim" sx={{ textAlign: 'right', pl: 1, whiteSpace: 'nowrap' }}>
              {has === of ? `all ${count(of)}` : `${count(has)} of ${count(of)}`}
            </Box>
          </tr>
        ))}
      </tbody>
    </Box>
  );
}
