'use client';
import { autocompletion, type Completion, type CompletionContext } from '@codemirror/autocomplete';
import { yaml } from '@codemirror/lang-yaml';
import { syntaxHighlighting } from '@codemirror/language';
import { lintGutter, setDiagnostics } from '@codemirror/lint';
import { EditorView, hoverTooltip } from '@codemirror/view';
import CodeMirror, { type ReactCodeMirrorRef } from '@uiw/react-codemirror';
import { useEffect, useMemo, useRef } from 'react';
import type { PlacedFault, VocabularyAnswer } from '../../server/shapes';
import { colours, look } from '../shared/editor-look';

interface Props {
  readonly text: string;
  readonly words: VocabularyAnswer | undefined;
  readonly faults: readonly PlacedFault[];
  /** The line to show, and a number that grows each time it is asked for. */
  readonly reveal: { readonly line: number; readonly turn: number } | undefined;
  readonly onChange: (text: string) => void;
  readonly onLine: (line: number) => void;
}

/** A recipe's text, with completion and hovers from its own schema, and faults at their lines. */
export function RecipeEditor({ text, words, faults, reveal, onChange, onLine }: Props) {
  const editor = useRef<ReactCodeMirrorRef>(null);
  const extensions = useMemo(
    () => [
      yaml(),
      lintGutter(),
      look,
      syntaxHighlighting(colours),
      autocompletion({ override: [(context) => complete(context, words)] }),
      hoverTooltip((view, position) => {
        const word = view.state.wordAt(position);
        const name = word === null ? '' : view.state.sliceDoc(word.from, word.to);
        const about = aboutWord(words, name);
        if (word === null || about === undefined) return null;
        return {
          pos: word.from,
          end: word.to,
          create: () => {
            const dom = document.createElement('div');
            dom.textContent = `${name}: ${about}`;
            return { dom };
          },
        };
      }),
      EditorView.updateListener.of((update) => {
        if (update.selectionSet) onLine(update.state.doc.lineAt(update.state.selection.main.head).number);
      }),
      EditorView.contentAttributes.of({ 'aria-label': 'Text of the recipe', tabindex: '0' }),
    ],
    [onLine, words],
  );
  useEffect(() => {
    const view = editor.current?.view;
    if (view === undefined) return;
    const { doc } = view.state;
    const marks = faults.flatMap(({ line, sentence }) => {
      if (line === null || line > doc.lines) return [];
      const { from, to } = doc.line(Math.max(1, line));
      return [{ from, to, severity: 'error' as const, message: sentence }];
    });
    view.dispatch(setDiagnostics(view.state, marks));
  }, [faults, text]);
  useEffect(() => {
    const view = editor.current?.view;
    if (view === undefined || reveal === undefined || reveal.line > view.state.doc.lines) return;
    const { from } = view.state.doc.line(reveal.line);
    view.dispatch({ selection: { anchor: from }, effects: EditorView.scrollIntoView(from, { y: 'center' }) });
  }, [reveal]);
  return (
    <CodeMirror
      ref={editor}
      value={text}
      height="100%"
      style={{ height: '100%' }}
      theme="none"
      extensions={extensions}
      onChange={onChange}
      basicSetup={{ foldGutter: false, highlightActiveLine: true }}
    />
  );
}

function aboutWord(words: VocabularyAnswer | undefined, name: string): string | undefined {
  if (words === undefined) return undefined;
  const all = [...words.words, ...words.functions, ...words.hashes, ...words.steps];
  return all.find(([word, about]) => word === name && about !== '')?.[1];
}

/** Words that fit behind `before`, the text of the line up to the cursor. */
function wordsFor(words: VocabularyAnswer, before: string): VocabularyAnswer['words'] {
  if (/\b(as|holds):\s*["']?$/.test(before)) return words.kinds;
  if (/\b(through|use|wrapped):\s*[[{"']*$/.test(before) || /through:\s*\[[^\]]*,\s*$/.test(before)) return words.steps;
  if (/\b(is|new|when|at|length|path|stored|size|hashing|from|only):\s*[^,}]*$/.test(before))
    return [...words.functions, ...words.hashes];
  return words.words;
}

function complete(
  context: CompletionContext,
  words: VocabularyAnswer | undefined,
): { from: number; options: Completion[] } | null {
  const word = context.matchBefore(/[\w-]+/);
  if (words === undefined || (word === null && !context.explicit)) return null;
  const from = word?.from ?? context.pos;
  const line = context.state.doc.lineAt(context.pos);
  const options = wordsFor(words, line.text.slice(0, from - line.from)).map(
    ([label, detail]): Completion => ({ label, detail, type: 'keyword' }),
  );
  return { from, options };
}
