'use client';
import { HighlightStyle } from '@codemirror/language';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';

/** How text is shown in an editor. */
export const look = EditorView.theme({
  '&': { height: '100%', fontSize: '11.5px', background: 'var(--sheet)', color: 'var(--ink)' },
  '.cm-content, .cm-gutters': { fontFamily: "'IBM Plex Mono', monospace", lineHeight: '1.6' },
  '.cm-gutters': { paddingLeft: '6px', background: 'var(--sheet)', color: 'var(--dim)', border: 'none' },
  '.cm-activeLine, .cm-activeLineGutter': { background: 'var(--paper)' },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '&.cm-focused': { outline: '2px solid var(--teal)', outlineOffset: '-2px' },
  '&.cm-focused .cm-selectionBackground, .cm-selectionBackground': { background: 'var(--teal2) !important' },
  '.cm-tooltip': {
    background: 'var(--sheet)',
    color: 'var(--ink)',
    border: '1px solid var(--line)',
    borderRadius: '6px',
  },
  '.cm-tooltip-hover': {
    padding: '4px 8px',
    maxWidth: '420px',
    fontFamily: "'Atkinson Hyperlegible Next', sans-serif",
    fontSize: '12px',
  },
  '.cm-diagnostic': {
    fontFamily: "'Atkinson Hyperlegible Next', sans-serif",
    fontSize: '12px',
    borderLeftColor: 'var(--brick)',
  },
});

/** The colours of its words. */
export const colours = HighlightStyle.define([
  { tag: tags.definition(tags.propertyName), color: 'var(--teal)' },
  { tag: tags.propertyName, color: 'var(--teal)' },
  { tag: tags.string, color: 'var(--brass)' },
  { tag: tags.comment, color: 'var(--dim)' },
  { tag: [tags.number, tags.bool, tags.null], color: 'var(--slate)' },
  { tag: [tags.keyword, tags.tagName, tags.typeName], color: 'var(--teal)' },
  { tag: [tags.attributeName, tags.meta], color: 'var(--slate)' },
]);
