import { Button, Segmented, Select } from 'antd';
import { useEffect, useRef, useState } from 'react';
import type { MapStage as Map_ } from '../api/flow';
import css from './flow.module.css';
import { VariableName } from './VariableName';
import type { PaneProps } from './panes';
import { useLatest } from '../shared/useLatest';
import { RecordSheet } from './RecordSheet';
import { SourceList } from './SourceList';

const START: Record<'xquery' | 'xslt', (input: string) => string> = {
  xquery: (input) => `<message>\n  <reference>{string($${input}/*[1])}</reference>\n</message>\n`,
  xslt: (input) =>
    `<xsl:stylesheet version="3.0" xmlns:xsl="http://www.w3.org/1999/XSL/Transform" expand-text="yes">
  <xsl:template match="*">
    <message>
      <reference>{*[1]}</reference>
    </message>
  </xsl:template>
</xsl:stylesheet>
<!-- the context is $${input} -->
`,
};

/** A record made by fills, or a whole message made by XSLT or XQuery. */
export function MapStage(props: PaneProps<Map_>) {
  return props.stage.language === undefined ? <ByFills {...props} /> : <ByScript {...props} />;
}

type Way = 'fills' | 'xquery' | 'xslt';

const WAYS: { value: Way; label: string }[] = [
  { value: 'fills', label: 'Fills' },
  { value: 'xquery', label: 'XQuery 3.1' },
  { value: 'xslt', label: 'XSLT 3.0' },
];

function ByFills({ stage, number, onChange, onVariable, onRemove, onFile: _, ...rest }: PaneProps<Map_>) {
  return (
    <div className={css.stage}>
      <div className={css.stageHead}>
        <h2>{number} · Map</h2>
        <Segmented<Way>
          size="small"
          value="fills"
          options={WAYS}
          onChange={(way) => way !== 'fills' && onChange({ ...stage, language: way, text: '' })}
        />
        <span className="dim">makes</span>
        <VariableName small label="Result variable" value={stage.as} onRename={onVariable} />
        <span className="grow" />
        <Button size="small" onClick={onRemove}>
          Remove
        </Button>
      </div>
      <RecordSheet
        {...rest}
        stage={{ ...stage, columns: stage.columns ?? [], fills: stage.fills ?? [] }}
        onChange={(next) => onChange(next.document ? { ...next, document: 'xml' } : next)}
        heading={`$${stage.as}`}
      />
    </div>
  );
}

function ByScript({ stage, number, preview, onChange, onVariable, onRemove }: PaneProps<Map_>) {
  const language = stage.language ?? 'xquery';
  const [text, setText] = useState(stage.text ?? '');
  const area = useRef<HTMLTextAreaElement>(null);
  const latest = useLatest(stage);
  useEffect(() => setText(stage.text ?? ''), [stage.id, stage.text]);
  useEffect(() => {
    if (text === (latest.current.text ?? '')) return undefined;
    const timer = setTimeout(() => onChange({ ...latest.current, text }), 350);
    return () => clearTimeout(timer);
  }, [text, onChange, latest]);
  const variables = (preview?.sources ?? []).map((g) => g.variable);
  const input = stage.input ?? variables.find((v) => v !== 'run') ?? 'record';
  const problem = preview?.problems.find((p) => p.stage === stage.id);
  const line = Number(/^line (\d+)/.exec(problem?.message ?? '')?.[1] ?? 0);
  const insert = (wire: string) => {
    const at = area.current?.selectionStart ?? text.length;
    setText(text.slice(0, at) + wire + text.slice(at));
    area.current?.focus();
  };
  const goTo = () => {
    const start =
      text
        .split('\n')
        .slice(0, line - 1)
        .join('\n').length + (line > 1 ? 1 : 0);
    area.current?.focus();
    area.current?.setSelectionRange(start, start + (text.split('\n')[line - 1]?.length ?? 0));
  };
  return (
    <div className={css.stage}>
      <div className={css.stageHead}>
        <h2>{number} · Map</h2>
        <Segmented<Way>
          size="small"
          value={language}
          options={WAYS}
          onChange={(way) =>
            onChange(
              way === 'fills'
                ? {
                    ...stage,
                    language: undefined,
                    text: undefined,
                    columns: stage.columns ?? [],
                    fills: stage.fills ?? [],
                  }
                : {
                    ...stage,
                    language: way,
                    text: text.trim() === '' || text === START[language](input) ? START[way](input) : text,
                  },
            )
          }
        />
        <span className="dim">of</span>
        <Select
          size="small"
          className="mono pick-s"
          aria-label="Input"
          value={input}
          options={variables.map((v) => ({ value: v, label: `$${v}` }))}
          onChange={(v) => onChange({ ...stage, input: v })}
        />
        <span className="dim">makes</span>
        <VariableName small label="Result variable" value={stage.as} onRename={onVariable} />
        <span className="grow" />
        <Button size="small" onClick={onRemove}>
          Remove
        </Button>
      </div>
      <div className={css.tools}>
        <span className="dim clip">
          {language === 'xquery'
            ? 'Variables in reach are known by their names: $loan/borrower. The result is one element.'
            : 'A variable in reach is a global parameter of its name: <xsl:param name="loan"/>.' +
              ' The result is one element.'}
        </span>
        <span className="grow" />
        {text.trim() === '' && (
          <Button size="small" onClick={() => setText(START[language](input))}>
            Start with an example
          </Button>
        )}
      </div>
      <div className={css.fillArea}>
        <SourceList
          groups={preview?.sources ?? []}
          used={new Set(text.match(/\$[\p{L}\p{N}_./@-]+/gu) ?? [])}
          focus={new Set()}
          onPick={insert}
        />
        <div className={css.script}>
          <textarea
            ref={area}
            aria-label="Script"
            spellCheck={false}
            value={text}
            onChange={(e) => setText(e.target.value)}
            onKeyDown={(e) => {
              if (e.key !== 'Tab' || e.shiftKey) return;
              e.preventDefault();
              const at = e.currentTarget.selectionStart;
              const end = e.currentTarget.selectionEnd;
              const box = e.currentTarget;
              setText(`${text.slice(0, at)}  ${text.slice(end)}`);
              requestAnimationFrame(() => box.setSelectionRange(at + 2, at + 2));
            }}
            onDragOver={(e) => e.preventDefault()}
            onDrop={(e) => {
              e.preventDefault();
              insert(e.dataTransfer.getData('text/plain'));
            }}
          />
          {problem && (
            <div className={css.lost}>
              {line > 0 ? (
                <button type="button" className="linkish bad" onClick={goTo}>
                  {problem.message}
                </button>
              ) : (
                problem.message
              )}
            </div>
          )}
        </div>
      </div>
    </div>
  );
}
