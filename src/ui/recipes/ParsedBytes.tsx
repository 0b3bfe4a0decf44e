'use client';
import Box from '@mui/material/Box';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { TriedField, TryAnswer } from '../../server/shapes';
import { BytesView, type ByteMark } from '../preview/BytesView';

interface Props {
  readonly url: string;
  readonly size: number;
  readonly answer: TryAnswer | undefined;
  /** The line of the recipe the cursor is in. */
  readonly line: number;
  /** A byte to show, asked for from elsewhere. */
  readonly wish: { readonly at: number; readonly turn: number } | undefined;
  readonly onField: (field: TriedField) => void;
}

type Line = { readonly head: string; readonly range: string } | TriedField;

const ROW = 24;

/** The bytes of the sample above, the fields they are below; each leads to the other and to its line. */
export function ParsedBytes({ url, size, answer, line, wish, onField }: Props) {
  const fields = useMemo(() => answer?.fields ?? [], [answer]);
  const [picked, setPicked] = useState<TriedField>();
  const [reveal, setReveal] = useState(wish);
  const chosen = picked !== undefined && fields.includes(picked) ? picked : fields.find((field) => field.line === line);
  const lines = useMemo(() => linesOf(answer), [answer]);
  const box = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are used within this render only
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 20,
  });
  const marks = useMemo(() => marksOf(fields, chosen), [fields, chosen]);
  useEffect(() => {
    if (chosen === undefined) return;
    virtual.scrollToIndex(lines.indexOf(chosen), { align: 'auto' });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- follows the choice only
  }, [chosen]);
  const pick = (field: TriedField) => {
    setPicked(field);
    onField(field);
    if (!field.unlocked && field.volume === 0) setReveal((before) => ({ at: field.at, turn: (before?.turn ?? 0) + 1 }));
  };
  const pickByte = (at: number) => {
    const found = fields.findLast((field) => !field.unlocked && field.volume === 0 && at >= field.at && at < field.at + field.length);
    if (found !== undefined) pick(found);
  };
  return (
    <>
      <Box sx={{ flex: '0 0 30%', minHeight: 0, p: 1.25, pb: 0 }}>
        <BytesView url={url} size={size} height="100%" width={12} marks={marks} reveal={wish ?? reveal} onPick={pickByte} />
      </Box>
      <Box
        ref={box}
        tabIndex={0}
        role="region"
        aria-label="What the bytes are"
        className="mono"
        sx={{ flex: 1, minHeight: 0, overflow: 'auto', m: 1.25, mt: 1 }}
      >
        {answer !== undefined && lines.length === 0 && <span className="dim">nothing is read yet</span>}
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const one = lines[item.index]!;
            return (
              <Box key={item.key} sx={{ position: 'absolute', top: item.start, left: 0, right: 0, height: ROW, display: 'flex', alignItems: 'head' in one ? 'center' : 'stretch' }}>
                {'head' in one ? (
                  <>
                    <Box sx={{ flex: '0 0 34%', fontWeight: 600 }}>{one.head}</Box>
                    <Box className="dim">{one.range}</Box>
                  </>
                ) : (
                  <FieldLine field={one} isChosen={one === chosen} onPick={() => pick(one)} />
                )}
              </Box>
            );
          })}
        </div>
      </Box>
    </>
  );
}

function FieldLine({ field, isChosen, onPick }: { field: TriedField; isChosen: boolean; onPick: () => void }) {
  return (
    <Box
      component="button"
      type="button"
      aria-pressed={isChosen}
      onClick={onPick}
      title={`${field.unlocked ? 'unlocked, ' : ''}0x${field.at.toString(16).toUpperCase()}, ${field.length} bytes, line ${field.line}`}
      sx={{
        all: 'unset',
        display: 'flex',
        flex: 1,
        minWidth: 0,
        cursor: 'pointer',
        alignItems: 'center',
        background: isChosen ? 'var(--teal2)' : undefined,
        '&:focus-visible': { outline: '2px solid var(--teal)', outlineOffset: -2 },
        '& > span': { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap', pr: 1 },
      }}
    >
      <Box component="span" sx={{ flex: '0 0 34%', boxSizing: 'border-box', pl: 1.5 }}>
        {field.row > 0 || field.shape.startsWith('row') ? <span className="dim">[{field.row}] </span> : null}
        {field.field}
      </Box>
      <Box component="span" sx={{ flex: '0 0 30%' }}>
        {field.value}
      </Box>
      <Box component="span" className="dim" sx={{ flex: 1 }}>
        {field.formula !== undefined ? `= ${field.formula}` : field.must !== undefined ? 'as it must be' : ''}
      </Box>
    </Box>
  );
}

function linesOf(answer: TryAnswer | undefined): Line[] {
  const lines: Line[] = [];
  const hex = (value: number) => `0x${value.toString(16).toUpperCase()}`;
  for (const region of answer?.regions ?? []) {
    const fields = answer!.fields!.filter((field) => field.region === region.name);
    const end = hex(Math.max(region.at, region.at + region.length - 1));
    lines.push({ head: region.name, range: `${hex(region.at)} – ${end}${region.unlocked ? ', unlocked' : ''}` }, ...fields);
  }
  return lines;
}

/** What is a number, what a text or bytes, what is chosen. */
function marksOf(fields: readonly TriedField[], chosen: TriedField | undefined): ByteMark[] {
  const drawn = fields.filter((field) => !field.unlocked && field.volume === 0 && field.length > 0);
  const marks = drawn.map((field): ByteMark => ({ at: field.at, length: field.length, tone: toneOf(field) }));
  if (chosen !== undefined && drawn.includes(chosen)) marks.push({ at: chosen.at, length: chosen.length, tone: 'chosen' });
  return marks;
}

function toneOf(field: TriedField): ByteMark['tone'] {
  if (field.must !== undefined) return 'teal2';
  return field.formula !== undefined ? 'brass2' : 'slate2';
}
