import { App, Button, Checkbox, Dropdown, Input, Select } from 'antd';
import { useEffect, useMemo, useRef, useState } from 'react';
import { api } from '../api/client';
import {
  type CallStage,
  type Column,
  type Fill,
  type FlowFile,
  fillKept,
  NEXT_OF,
  freeId,
  type Group,
  type MakesRecord,
  readFill,
  withFill,
} from '../api/flow';
import type { EverythingMade, Preview, SheetProposal } from '../api/types';
import { NONE } from '../shared/none';
import { useKeys } from '../shared/useKeys';
import { FillSheet, type Target } from './FillSheet';
import { useAsked } from './asked';
import css from './flow.module.css';
import { repeatedPaths } from './repeatedPaths';
import { SuggestButtons } from './SuggestButtons';
import { useSeries, useSheet } from './useChoices';
import { useProposals } from './useProposals';
import { useTakenSheet } from './useTakenSheet';
import { useTry, withFix, wrongRows } from './useStageTools';

const TYPES = ['string', 'integer', 'decimal', 'boolean', 'date', 'datetime', 'time'].map((t) => ({
  value: t,
}));

/** What is asked of every pane that makes a record by fills. */
export type RecordSheetProps<S extends MakesRecord & { id: string }> = {
  file: FlowFile;
  stage: S;
  /** The call whose reply the record is made of, if there is one before it. */
  call: CallStage | undefined;
  preview: Preview | undefined;
  focus: string | undefined;
  /** What a mapping sheet proposes, until it is looked at. */
  sheet: SheetProposal[] | undefined;
  onSheet: () => void;
  /** What the record goes to, above its columns. */
  heading: string;
  /** Columns of the target that the record does not have: nobody types them again. */
  missing?: Column[];
  /** A renamed column, for what else names it. */
  onRenamed?: (stage: S, from: string, to: string) => S;
  /** Related tables instead of one; left out where there is one place only. */
  onTables?: (made: EverythingMade) => void;
  /** Whether a record is made of everything in a reply. */
  everything?: boolean;
  onFocus: (path: string) => void;
  onChange: (stage: S) => void;
  onRecord: (record: number) => void;
};

/** The columns of a record and what fills them: the same wherever a record is made. */
export function RecordSheet<S extends MakesRecord & { id: string }>({
  file,
  stage,
  call,
  preview,
  focus,
  sheet,
  onSheet,
  heading,
  missing = NONE,
  onRenamed,
  onTables,
  everything: offered = true,
  onFocus,
  onChange,
  onRecord,
}: RecordSheetProps<S>) {
  const { message } = App.useApp();
  const [text, setText] = useState('');
  const [onlyProblems, setOnlyProblems] = useState(false);
  const [naming, setNaming] = useState<string>();
  const search = useRef<HTMLInputElement>(null);
  const proposed = useProposals(stage, 'w', (fills) => onChange({ ...stage, fills }));
  const { flowId } = useAsked();
  const onTry = useTry();
  useTakenSheet(sheet, onSheet, proposed.show, (first) => {
    setOnlyProblems(false);
    if (first) onFocus(first);
  });
  const reply = useSheet(call, 'reply')?.rows ?? NONE;
  const attention = new Set(
    (preview?.attention ?? []).filter((a) => a.stage === stage.id && a.field).map((a) => a.field),
  );
  const suggest = async () => {
    const found = await proposed.suggest();
    setOnlyProblems(false);
    const first = stage.columns.find((c) => found.includes(c.name));
    if (first) onFocus(first.name);
  };
  useKeys({ s: () => void suggest(), c: () => addColumn(), '/': () => search.current?.focus() });
  const rowChoices = useMemo(
    () =>
      repeatedPaths(reply, call?.as ?? 'reply').map((value) => ({
        value,
        label: `one row for each ${value.slice(value.lastIndexOf('/') + 1)}`,
      })),
    [reply, call],
  );
  const retype = (name: string, part: Partial<Column>) => {
    const renamed = part.name;
    const next = {
      ...stage,
      columns: stage.columns.map((c) =>
        c.name === name ? { ...c, ...part, ...(renamed ? { label: renamed } : {}) } : c,
      ),
      fills: renamed
        ? stage.fills.map((f) => (f.target === name ? { ...f, target: renamed } : f))
        : stage.fills,
    };
    onChange(renamed && onRenamed ? onRenamed(next, name, renamed) : next);
    if (renamed) onFocus(renamed);
  };
  const drop = (name: string) => {
    const next = {
      ...stage,
      columns: stage.columns.filter((c) => c.name !== name),
      fills: stage.fills.filter((f) => f.target !== name),
    };
    onChange(onRenamed ? onRenamed(next, name, '') : next);
  };
  const shown = stage.columns.filter(
    (c) =>
      c.name.toLowerCase().includes(text.trim().toLowerCase()) && (!onlyProblems || attention.has(c.name)),
  );
  const names = useSeries().map((s) => s.name);
  const draws = 'verb' in stage && stage.verb === 'Map' && !stage.rows && !stage.document;
  const targets: Target[] = shown.map((column) => ({
    path: column.name,
    search: column.name,
    fillable: true,
    file: 'write' as const,
    series: draws ? names : undefined,
    repeats: false,
    required: column.required,
    values: [],
    name:
      column.name === focus ? (
        <span className={`row tight full ${css.columnNamed}`}>
          <Input
            size="small"
            variant="borderless"
            aria-label="Column name"
            title={column.name}
            className="grow pad-tight"
            key={column.name}
            defaultValue={column.name}
            autoFocus={column.name === naming}
            onFocus={(e) => e.target.select()}
            onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
            onBlur={(e) => {
              setNaming(undefined);
              if (
                e.target.value &&
                e.target.value !== column.name &&
                !stage.columns.some((c) => c.name === e.target.value)
              )
                retype(column.name, { name: e.target.value });
            }}
          />
          <span className={`row tight ${css.columnTools}`}>
            <Select
              size="small"
              variant="borderless"
              aria-label={`Type of ${column.name}`}
              className="field-s"
              value={column.type}
              suffixIcon={null}
              popupMatchSelectWidth={false}
              options={TYPES}
              onChange={(type) => retype(column.name, { type: type as Column['type'] })}
            />
            <Checkbox
              checked={column.required}
              title="required: a record without it is rejected"
              onChange={(e) => retype(column.name, { required: e.target.checked })}
            />
            <Button
              size="small"
              type="text"
              tabIndex={-1}
              title="drop the column"
              onClick={() => drop(column.name)}
              className="pad-tight faint"
            >
              ✕
            </Button>
          </span>
        </span>
      ) : (
        <span className="clip nudged">
          <span className="marked">{column.required ? '• ' : '\u2007 '}</span>
          {column.name} <span className="mono faint small">{column.type}</span>
        </span>
      ),
  }));
  useEffect(() => {
    if (!focus && stage.columns.length > 0) onFocus(stage.columns[0].name);
  }, [focus, stage.columns, onFocus]);
  const fill = (path: string, typed: string) => {
    const drawn = draws && names.find((name) => NEXT_OF + name === typed.trim());
    const read = drawn ? { number: drawn } : readFill(typed);
    const before = stage.fills.find((f) => f.target === path);
    if (!read) {
      if (before) onChange({ ...stage, fills: stage.fills.filter((f) => f.target !== path) });
      return;
    }
    onChange({
      ...stage,
      fills: withFill(stage.fills, {
        id: before?.id ?? freeId(stage.fills, 'w'),
        target: path,
        ...read,
        ...fillKept(before),
      }),
    });
  };
  const everything = async (shape: 'rows' | 'tables' | 'nested') => {
    try {
      const made = await api.post<EverythingMade>(`/flows/${flowId}/everything`, {
        file,
        rows: stage.rows || undefined,
        stage: stage.id,
      });
      if (shape === 'nested') {
        onChange({
          ...stage,
          rows: '',
          document: stage.document ?? 'json',
          columns: made.nested.columns as Column[],
          fills: made.nested.fills as Fill[],
          groups: made.nested.groups as Group[],
        });
      } else if (shape === 'tables') onTables?.(made);
      else {
        const taken = new Set(stage.columns.map((c) => c.name));
        const columns = [
          ...stage.columns,
          ...(made.rows.columns as Column[]).filter((c) => !taken.has(c.name)),
        ];
        let fills = stage.fills;
        for (const f of made.rows.fills as Fill[])
          if (!taken.has(f.target)) fills = [...fills, { ...f, id: freeId(fills, 'w') }];
        onChange({
          ...stage,
          rows: made.rows.rowPath,
          columns,
          fills,
          document: undefined,
          groups: undefined,
        });
      }
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e));
    }
  };
  const addColumn = () => {
    let name = 'column';
    for (let n = 2; stage.columns.some((c) => c.name === name); n++) name = `column_${n}`;
    onChange({
      ...stage,
      columns: [...stage.columns, { name, label: name, type: 'string', required: false }],
    });
    setNaming(name);
    onFocus(name);
  };
  const fromReply = offered && call !== undefined;
  return (
    <>
      <div className={css.tools}>
        {stage.document ? (
          <span className="dim clip">
            one {stage.document.toUpperCase()} document a record
            {(stage.groups ?? []).map((g) => ` · ${g.name} for each ${g.repeat}`).join('')}
          </span>
        ) : (
          fromReply && (
            <Select
              size="small"
              aria-label="One row for each"
              popupMatchSelectWidth={false}
              className="field-l"
              value={stage.rows ?? ''}
              onChange={(rows) => onChange({ ...stage, rows })}
              options={[{ value: '', label: 'one row per reply' }, ...rowChoices]}
            />
          )
        )}
        {stage.columns.length > 0 && (
          <Input
            ref={search as never}
            size="small"
            allowClear
            placeholder="Find a column  /"
            className="field-m rigid"
            value={text}
            onChange={(e) => setText(e.target.value)}
            onKeyDown={(e) => (e.key === 'Enter' || e.key === 'Escape') && e.currentTarget.blur()}
          />
        )}
        {(attention.size > 0 || onlyProblems) && (
          <button
            type="button"
            className={`${css.filter} ${onlyProblems ? css.filterOn : ''} bad`}
            onClick={() => setOnlyProblems(!onlyProblems)}
          >
            Problems {attention.size}
          </button>
        )}
        <span className="grow" />
        {missing.length > 0 && stage.columns.length > 0 && proposed.proposals.size === 0 && (
          <Button
            size="small"
            type="text"
            title={missing.map((c) => c.name).join(', ')}
            onClick={() => onChange({ ...stage, columns: [...stage.columns, ...missing] })}
          >
            Take {missing.length} more of {heading}
          </Button>
        )}
        {stage.columns.length > 0 && <SuggestButtons proposed={proposed} onSuggest={() => void suggest()} />}
        {proposed.proposals.size === 0 && (
          <Button size="small" title="C" onClick={addColumn}>
            Add a column
          </Button>
        )}
        {fromReply && proposed.proposals.size === 0 && (
          <Dropdown.Button
            size="small"
            title="Make a record of everything"
            type={stage.columns.length ? 'default' : 'primary'}
            onClick={() => void everything(stage.document ? 'nested' : 'rows')}
            menu={{
              items: [
                { key: 'rows', label: 'One table' },
                ...(onTables ? [{ key: 'tables', label: 'Related tables: a key made for each row' }] : []),
                { key: 'nested', label: 'One nested document' },
              ],
              onClick: ({ key }) => void everything(key as 'rows'),
            }}
          >
            {stage.columns.length ? 'Everything' : 'Make a record of everything'}
          </Dropdown.Button>
        )}
      </div>
      {stage.columns.length === 0 ? (
        <p className="dim pad-l">
          The record has no columns yet.{' '}
          {fromReply ? (
            <>
              <b>Make a record of everything</b> takes all fields of the reply; then drop, rename and add what
              you need.
            </>
          ) : (
            <>
              <b>Add a column</b> for each field, and say what fills it.
            </>
          )}
        </p>
      ) : (
        <FillSheet
          heading={`${heading} column`}
          targets={targets}
          fills={stage.fills}
          values={preview?.fields ?? {}}
          sources={preview?.sources ?? NONE}
          proposals={proposed.proposals}
          focus={focus}
          onFocus={onFocus}
          onFill={fill}
          onChangeFill={(its) =>
            onChange({
              ...stage,
              fills: withFill(stage.fills, { ...its, id: its.id || freeId(stage.fills, 'w') }),
            })
          }
          onFix={(path) => onChange({ ...stage, fills: withFix(stage.fills, preview, path) })}
          onTry={onTry}
          wrong={wrongRows(preview, stage.id)}
          onAccept={(path) => proposed.accept([path])}
          onDismiss={proposed.dismiss}
          onRecord={onRecord}
        />
      )}
    </>
  );
}
