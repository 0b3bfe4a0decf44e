'use client';
import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import { FaultNote } from '../shared/states';

/** More than this of a text is not drawn; the rest is in Bytes. */
const MAX_SHOWN = 256 << 10;

export function useText(url: string) {
  return useQuery({
    queryKey: ['text', url],
    queryFn: async ({ signal }) => {
      const answer = await fetch(url, { signal, headers: { range: `bytes=0-${MAX_SHOWN - 1}` } });
      if (!answer.ok && answer.status !== 416)
        throw new Error(((await answer.json()) as { fault?: { sentence: string } }).fault?.sentence);
      return answer.status === 416 ? '' : new TextDecoder('utf-8').decode(await answer.arrayBuffer());
    },
  });
}

/** A text as it is; JSON with its words coloured. */
export function TextView({ url, json, height, size }: { url: string; json: boolean; height: number; size: number }) {
  const { data, error } = useText(url);
  if (error !== null) return <FaultNote>{error.message}</FaultNote>;
  return (
    <>
      <Box
        component="pre"
        tabIndex={0}
        className="mono"
        aria-label="Text"
        sx={{
          m: 0,
          height,
          overflow: 'auto',
          whiteSpace: 'pre-wrap',
          overflowWrap: 'anywhere',
          border: '1px solid var(--line)',
          borderRadius: 1,
          background: 'var(--paper)',
          p: 1,
        }}
      >
        {data === undefined ? '' : json ? colouredJson(data) : data}
      </Box>
      {size > MAX_SHOWN && <Box className="dim">The first 256 KB are shown.</Box>}
    </>
  );
}

/** Strings that are keys, other strings, numbers and words, each in its colour. */
function colouredJson(text: string) {
  const parts = text.split(/("(?:[^"\\]|\\.)*"(?:\s*:)?|-?\b\d+(?:\.\d+)?(?:[eE][+-]?\d+)?\b|\b(?:true|false|null)\b)/);
  return parts.map((part, i) => {
    if (i % 2 === 0) return part;
    const colour = part.endsWith(':') ? 'var(--teal)' : part.startsWith('"') ? 'var(--slate)' : 'var(--brass)';
    return (
      <span key={i} style={{ color: colour }}>
        {part}
      </span>
    );
  });
}
