'use client';
import type { FormView, ViewProps } from '../form-view';
import { JsonPreview } from './JsonPreview';
import { LineComparison } from './LineComparison';
import { textAt } from './text-at';
import { TextView } from './TextView';

export const wordsView: FormView = { View: WordsView, Compare: LineComparison };
export const recordsView: FormView = { View: RecordsView, Compare: LineComparison };

const heightFor = (large: boolean) => (large ? 520 : 240);

function WordsView({ subject, name, size, large }: ViewProps) {
  return <TextView url={textAt(subject, name)} name={name} height={heightFor(large)} size={size} />;
}

function RecordsView(props: ViewProps) {
  if (!props.name.endsWith('.json')) return <WordsView {...props} />;
  const { subject, name, size, large } = props;
  return <JsonPreview subject={subject} name={name} height={heightFor(large)} size={size} />;
}
