'use client';
import { syntaxHighlighting } from '@codemirror/language';
import { EditorView } from '@codemirror/view';
import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import CodeMirror from '@uiw/react-codemirror';
import { useMemo } from 'react';
import { colours, look } from '../../shared/editor-look';
import { FaultNote } from '../../shared/states';
import { bytesAt } from '../../shared/api';
import { languageOf } from './languages';

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

/** A text as it is; one in a known language with its words coloured and its parts to fold. */
export function TextView({
  url,
  name,
  height,
  size,
}: {
  url: string;
  /** Its path, of which the ending counts. */
  name: string;
  height: number;
  size: number;
}) {
  const { data, error } = useText(url);
  const language = useMemo(() => (data === undefined ? undefined : languageOf(name, data)), [name, data]);
  const extensions = useMemo(() => (language === undefined ? [] : [language, ...CODE]), [language]);
  if (error !== null) return <FaultNote>{error.message}</FaultNote>;
  return (
    <>
      {language !== undefined ? (
        <Box sx={{ height, border: '1px solid var(--line)', borderRadius: 1, overflow: 'hidden' }}>
          <CodeMirror
            value={data ?? ''}
            readOnly
            height={`${height - 2}px`}
            theme="none"
            extensions={extensions}
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

const CODE = [
  look,
  syntaxHighlighting(colours),
  EditorView.lineWrapping,
  EditorView.contentAttributes.of({ 'aria-label': 'Text', tabindex: '0' }),
];
