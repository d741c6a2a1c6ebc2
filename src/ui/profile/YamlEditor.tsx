'use client';

import { autocompletion, type CompletionContext } from '@codemirror/autocomplete';
import { yaml } from '@codemirror/lang-yaml';
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import { type Diagnostic, linter, lintGutter } from '@codemirror/lint';
import { EditorState } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import { basicSetup } from 'codemirror';
import { useEffect, useRef } from 'react';
import type { Finding } from '../../core/finding';
import { type JsonSchema, suggestAt } from './suggest';

interface Props {
  label: string;
  initial: string;
  readOnly?: boolean;
  schema?: JsonSchema;
  onChange?: (text: string) => void;
  examine?: (text: string) => Promise<Finding[]>;
}

const THEME = EditorView.theme({
  '&': { fontSize: '13px', backgroundColor: 'var(--panel)', color: 'var(--ink)' },
  '.cm-content': { fontFamily: 'var(--font-mono)', caretColor: 'var(--ink)' },
  '.cm-gutters': { backgroundColor: 'var(--bank)', color: 'var(--soft)', border: 'none' },
  '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: 'var(--hover)' },
  '&.cm-focused': { outline: '2px solid var(--heather)' },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '.cm-tooltip': { backgroundColor: 'var(--panel)', color: 'var(--ink)', border: '1px solid var(--line-strong)' },
  '.cm-selectionBackground, &.cm-focused .cm-selectionBackground': { backgroundColor: 'var(--line) !important' },
});

/** In the tokens of the theme, so that both themes keep their contrast. */
const COLOURS = HighlightStyle.define([
  { tag: [tags.propertyName, tags.definition(tags.propertyName)], color: 'var(--ridge)' },
  { tag: tags.string, color: 'var(--moss)' },
  { tag: tags.comment, color: 'var(--soft)' },
  { tag: [tags.number, tags.bool, tags.null], color: 'var(--heather)' },
  { tag: [tags.meta, tags.keyword, tags.punctuation, tags.separator], color: 'var(--ink)' },
]);

/** A YAML editor that completes by a schema and shows findings at their place. Tab leaves it, as everywhere. */
export function YamlEditor({ label, initial, readOnly = false, schema, onChange, examine }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const latest = useRef({ onChange, examine, schema });
  latest.current = { onChange, examine, schema };

  useEffect(() => {
    if (!box.current) return;
    const complete = (context: CompletionContext) => {
      const known = latest.current.schema;
      if (!known) return null;
      const { from, options } = suggestAt(known, context.state.doc.toString(), context.pos);
      if (options.length === 0 || (!context.explicit && from === context.pos)) return null;
      return { from, options: options.map(({ text, detail }) => ({ label: text, detail })) };
    };
    const lint = async (view: EditorView): Promise<Diagnostic[]> => {
      const findings = (await latest.current.examine?.(view.state.doc.toString())) ?? [];
      const { length } = view.state.doc;
      return findings.map(({ problem, remedy, place }) => ({
        from: Math.min(place?.from ?? 0, length),
        to: Math.min(place?.to ?? 1, length),
        severity: 'error',
        message: `${problem}\n${remedy}`,
      }));
    };
    const view = new EditorView({
      parent: box.current,
      state: EditorState.create({
        doc: initial,
        extensions: [
          basicSetup,
          yaml(),
          THEME,
          syntaxHighlighting(COLOURS),
          autocompletion({ override: [complete] }),
          lintGutter(),
          linter(lint, { delay: 400 }),
          EditorState.readOnly.of(readOnly),
          EditorView.editable.of(!readOnly),
          EditorView.contentAttributes.of({ 'aria-label': label, tabindex: '0' }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) latest.current.onChange?.(update.state.doc.toString());
          }),
        ],
      }),
    });
    return () => view.destroy();
  }, [initial, readOnly, label]);

  return <div ref={box} className="max-h-[62vh] overflow-auto rounded-md border border-line" data-editor />;
}
