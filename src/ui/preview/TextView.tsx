'use client';
import { json } from '@codemirror/lang-json';
import { syntaxHighlighting } from '@codemirror/language';
import { EditorView } from '@codemirror/view';
import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import CodeMirror from '@uiw/react-codemirror';
import { colours, look } from '../shared/editor-look';
import { FaultNote } from '../shared/states';
import { bytesAt } from '../shared/api';

/** More than this of a text is not drawn; the rest is in Bytes. */
const MAX_SHOWN = 256 << 10;

export function useText(url: string) {
  return useQuery({
    queryKey: ['text', url],
    queryFn: async ({ signal }) => {
      const { bytes, charset } = await bytesAt(url, { from: 0, to: MAX_SHOWN, signal });
      return new TextDecoder(charset ?? 'utf-8').decode(bytes);
    },
  });
}

/** A text as it is; JSON with its words coloured and its parts to fold. */
export function TextView({
  url,
  isJson,
  height,
  size,
}: {
  url: string;
  isJson: boolean;
  height: number;
  size: number;
}) {
  const { data, error } = useText(url);
  if (error !== null) return <FaultNote>{error.message}</FaultNote>;
  return (
    <>
      {isJson ? (
        <Box sx={{ height, border: '1px solid var(--line)', borderRadius: 1, overflow: 'hidden' }}>
          <CodeMirror
            value={data ?? ''}
            readOnly
            height={`${height - 2}px`}
            theme="none"
            extensions={JSON_TEXT}
            basicSetup={{ foldGutter: true, lineNumbers: false, highlightActiveLine: false, autocompletion: false }}
          />
        </Box>
      ) : (
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
          {data ?? ''}
        </Box>
      )}
      {size > MAX_SHOWN && <Box className="dim">The first 256 KB are shown.</Box>}
    </>
  );
}

const JSON_TEXT = [
  json(),
  look,
  syntaxHighlighting(colours),
  EditorView.lineWrapping,
  EditorView.contentAttributes.of({ 'aria-label': 'Text', tabindex: '0' }),
];
