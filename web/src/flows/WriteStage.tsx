import { App, Button, Checkbox, Dropdown, Input, Select } from 'antd';
import { useEffect, useMemo, useRef, useState } from 'react';
import { api } from '../api/client';
import { allStages, type CallStage, type Column, type Fill, type FlowFile, fillKept, freeId, type Group, readFill, withFill, withStage, type WriteStage as Write } from '../api/flow';
import type { EverythingMade, Preview } from '../api/types';
import { NewDataset } from '../datasets/DatasetList';
import css from './flow.module.css';
import { NONE } from '../shared/none';
import { FillSheet, type Target } from './FillSheet';
import { SuggestButtons } from './SuggestButtons';
import { useProposals } from './useProposals';
import { useKeys } from '../shared/useKeys';
import { useStageTools, withFix, wrongRows } from './useStageTools';
import { useDatasets, useSheet } from './useChoices';

const TYPES = ['string', 'integer', 'decimal', 'boolean', 'date', 'datetime', 'time'].map((t) => ({ value: t }));

/** Where records go: what becomes a row, its columns and what fills them. */
export function WriteStage({
  flowId, file, stage, call, number, preview, record, environment, focus, onFocus, onChange, onFile, onRemove, onRecord,
}: {
  flowId: number;
  file: FlowFile;
  stage: Write;
  call: CallStage | undefined;
  number: number;
  preview: Preview | undefined;
  record: number;
  environment: string;
  focus: string | undefined;
  onFile: (file: FlowFile) => void;
  onRemove?: () => void;
  onFocus: (path: string) => void;
  onChange: (stage: Write) => void;
  onRecord: (record: number) => void;
}) {
  const { message } = App.useApp();
  const [adding, setAdding] = useState(false);
  const [text, setText] = useState('');
  const [onlyProblems, setOnlyProblems] = useState(false);
  const search = useRef<HTMLInputElement>(null);
  const proposed = useProposals(flowId, file, stage, record, environment, 'w', (fills) => onChange({ ...stage, fills }));
  const { onTry } = useStageTools(flowId, file, stage.id, record, environment);
  const isRejects = call?.rejects?.id === stage.id;
  const datasets = useDatasets();
  const reply = useSheet(call, 'reply')?.rows ?? [];
  const target = datasets.find((d) => d.name === stage.dataset);
  const isTable = target?.kind === 'table';
  const attention = new Set((preview?.attention ?? []).filter((a) => a.stage === stage.id && a.field).map((a) => a.field));
  const suggest = async () => {
    const found = await proposed.suggest();
    setOnlyProblems(false);
    const first = stage.columns.find((c) => found.includes(c.name));
    if (first) onFocus(first.name);
  };
  useKeys({ s: () => void suggest(), '/': () => search.current?.focus() });
  /** Columns the dataset has and the record does not: nobody types them again. */
  const missing = (stage.document ? [] : ((target?.columns ?? []) as Column[])).filter((c) => !stage.columns.some((o) => o.name === c.name));
  const rowChoices = useMemo(() => {
    const wire = (path: string): string => {
      const row = reply.find((r) => r.path === path);
      if (!row || !row.parent) return `$${call?.as ?? 'reply'}`;
      return `${wire(row.parent)}/${row.name}`;
    };
    return reply.filter((r) => r.max !== 1 && r.kind === 'element').map((r) => ({ value: wire(r.path), label: `one row for each ${r.name}` }));
  }, [reply, call]);
  const retype = (name: string, part: Partial<Column>) => {
    const renamed = part.name;
    onChange({
      ...stage,
      columns: stage.columns.map((c) => (c.name === name ? { ...c, ...part, ...(renamed ? { label: renamed } : {}) } : c)),
      fills: renamed ? stage.fills.map((f) => (f.target === name ? { ...f, target: renamed } : f)) : stage.fills,
      keys: renamed ? stage.keys.map((k) => (k === name ? renamed : k)) : stage.keys,
    });
  };
  const drop = (name: string) =>
    onChange({ ...stage, columns: stage.columns.filter((c) => c.name !== name), fills: stage.fills.filter((f) => f.target !== name), keys: stage.keys.filter((k) => k !== name) });
  const shown = stage.columns.filter((c) => c.name.toLowerCase().includes(text.trim().toLowerCase()) && (!onlyProblems || attention.has(c.name)));
  const targets: Target[] = shown.map((column) => ({
    path: column.name,
    search: column.name,
    fillable: true,
    file: 'write' as const,
    repeats: false,
    required: column.required,
    values: [],
    name: column.name === focus ? (
      <span className="row" style={{ gap: 4, width: '100%' }}>
        <Input size="small" variant="borderless" aria-label="Column name" className="grow" style={{ padding: '0 2px' }} key={column.name} defaultValue={column.name}
          onBlur={(e) => e.target.value && e.target.value !== column.name && !stage.columns.some((c) => c.name === e.target.value) && retype(column.name, { name: e.target.value })} />
        <Select size="small" variant="borderless" aria-label={`Type of ${column.name}`} style={{ width: 86 }} value={column.type} options={TYPES} onChange={(type) => retype(column.name, { type: type as Column['type'] })} />
        <Checkbox checked={column.required} title="required: a record without it is rejected" onChange={(e) => retype(column.name, { required: e.target.checked })} />
        <Button size="small" type="text" tabIndex={-1} title="drop the column" onClick={() => drop(column.name)} style={{ padding: '0 4px', color: 'var(--faint)' }}>✕</Button>
      </span>
    ) : (
      <span className="clip" style={{ paddingLeft: 2 }}>
        <span style={{ color: 'var(--primary)', fontWeight: 700 }}>{column.required ? '• ' : '\u2007 '}</span>
        {column.name} <span className="mono faint" style={{ fontSize: 11 }}>{column.type}</span>
      </span>
    ),
  }));
  useEffect(() => {
    if (!focus && stage.columns.length > 0) onFocus(stage.columns[0].name);
  }, [focus, stage.columns, onFocus]);
  const fill = (path: string, typed: string) => {
    const read = readFill(typed);
    const before = stage.fills.find((f) => f.target === path);
    if (!read) {
      if (before) onChange({ ...stage, fills: stage.fills.filter((f) => f.target !== path) });
      return;
    }
    onChange({ ...stage, fills: withFill(stage.fills, { id: before?.id ?? freeId(stage.fills, 'w'), target: path, ...read, ...fillKept(before) }) });
  };
  const everything = async (shape: 'rows' | 'tables' | 'nested') => {
    try {
      const made = await api.post<EverythingMade>(`/flows/${flowId}/everything`, { file, rows: stage.rows || undefined });
      if (shape === 'nested') {
        onChange({ ...stage, rows: '', document: stage.document ?? 'json', columns: made.nested.columns as Column[], fills: made.nested.fills as Fill[], groups: made.nested.groups as Group[] });
      } else if (shape === 'tables') onFile(withTables(file, stage, made));
      else {
        const taken = new Set(stage.columns.map((c) => c.name));
        const columns = [...stage.columns, ...(made.rows.columns as Column[]).filter((c) => !taken.has(c.name))];
        let fills = stage.fills;
        for (const f of made.rows.fills as Fill[]) if (!taken.has(f.target)) fills = [...fills, { ...f, id: freeId(fills, 'w') }];
        onChange({ ...stage, rows: made.rows.rowPath, columns, fills, document: undefined, groups: undefined });
      }
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e));
    }
  };
  const addColumn = (wire?: string) => {
    const base = wire ? (wire.split('/').pop() ?? 'column').replace(/^[@$]/, '') : 'column';
    let name = base;
    for (let n = 2; stage.columns.some((c) => c.name === name); n++) name = `${base}_${n}`;
    onChange({
      ...stage,
      columns: [...stage.columns, { name, label: name, type: 'string', required: false }],
      fills: wire ? [...stage.fills, { id: freeId(stage.fills, 'w'), target: name, wire }] : stage.fills,
    });
    onFocus(name);
  };
  return (
    <div className={css.stage}>
      <div className={css.stageHead}>
        <h2>{number} · Write{isRejects && ' what is rejected'}</h2>
        <Select size="small" variant="filled" aria-label="Target dataset" showSearch placeholder="to which dataset" style={{ minWidth: 150 }} popupMatchSelectWidth={false} value={stage.dataset}
          onChange={(name: string) => {
            if (name === '\u0000new') setAdding(true);
            else {
              const chosen = datasets.find((d) => d.name === name);
              const kind = chosen?.kind;
              const document = kind === 'json' || kind === 'xml' ? kind : undefined;
              const columns = stage.columns.length === 0 && !document ? ((chosen?.columns ?? []) as Column[]) : stage.columns;
              onChange({ ...stage, dataset: name, mode: kind === 'table' ? 'insert' : 'replace', document, columns });
            }
          }}
          options={[...datasets.filter((d) => d.kind !== 'query' && d.kind !== 'folder').map((d) => ({ value: d.name, label: `${d.name} · ${d.kind === 'table' ? 'table' : d.kind.toUpperCase()}` })), { value: '\u0000new', label: 'add a file or table …' }]} />
        <Select size="small" variant="filled" aria-label="Mode" value={stage.mode} style={{ width: 190 }} onChange={(mode) => onChange({ ...stage, mode })}
          options={isTable ? [{ value: 'insert', label: 'insert rows' }, { value: 'upsert', label: 'insert or update by key' }] : [{ value: 'replace', label: 'replace the file' }, { value: 'append', label: 'append to the file' }]} />
        {onRemove && <Button size="small" onClick={onRemove} style={{ order: 9, marginLeft: 'auto' }}>Remove</Button>}
        {stage.mode === 'upsert' && <Select size="small" mode="multiple" placeholder="key columns" style={{ minWidth: 140 }} value={stage.keys} onChange={(keys) => onChange({ ...stage, keys })} options={stage.columns.map((c) => ({ value: c.name }))} />}
      </div>
      <div className={css.tools}>
        {stage.document ? (
          <span className="dim clip">one {stage.document.toUpperCase()} document a record{(stage.groups ?? []).map((g) => ` · ${g.name} for each ${g.repeat}`).join('')}</span>
        ) : !isRejects && (
          <Select size="small" aria-label="One row for each" popupMatchSelectWidth={false} style={{ width: 150 }} value={stage.rows ?? ''} onChange={(rows) => onChange({ ...stage, rows })} options={[{ value: '', label: 'one row per reply' }, ...rowChoices]} />
        )}
        {stage.columns.length > 0 && <Input ref={search as never} size="small" allowClear placeholder="Find a column  /" style={{ width: 124, flex: 'none' }} value={text} onChange={(e) => setText(e.target.value)} onKeyDown={(e) => (e.key === 'Enter' || e.key === 'Escape') && e.currentTarget.blur()} />}
        {(attention.size > 0 || onlyProblems) && <button type="button" className={`${css.filter} ${onlyProblems ? css.filterOn : ''} bad`} onClick={() => setOnlyProblems(!onlyProblems)}>Problems {attention.size}</button>}
        <span className="grow" />
        {missing.length > 0 && stage.columns.length > 0 && proposed.proposals.size === 0 && <Button size="small" type="text" title={missing.map((c) => c.name).join(', ')} onClick={() => onChange({ ...stage, columns: [...stage.columns, ...missing] })}>Take {missing.length} more of {stage.dataset}</Button>}
        {stage.columns.length > 0 && !stage.document && <SuggestButtons proposed={proposed} onSuggest={() => void suggest()} />}
        {proposed.proposals.size === 0 && <Button size="small" onClick={() => addColumn()}>Add a column</Button>}
        {!isRejects && proposed.proposals.size === 0 && (
          <Dropdown.Button size="small" title="Make a record of everything" type={stage.columns.length ? 'default' : 'primary'} onClick={() => void everything(stage.document ? 'nested' : 'rows')}
            menu={{ items: [{ key: 'rows', label: 'One table' }, { key: 'tables', label: 'Related tables: a key made for each row' }, { key: 'nested', label: 'One nested document' }], onClick: ({ key }) => void everything(key as 'rows') }}>
            {stage.columns.length ? 'Everything' : 'Make a record of everything'}
          </Dropdown.Button>
        )}
      </div>
      {stage.columns.length === 0 ? (
        <p className="dim" style={{ padding: 16 }}>The record has no columns yet. <b>Make a record of everything</b> takes all fields of the reply; then drop, rename and add what you need.</p>
      ) : (
        <FillSheet
          heading={`${stage.dataset ?? 'record'} column`}
          targets={targets}
          fills={stage.fills}
          values={preview?.fields ?? {}}
          sources={preview?.sources ?? NONE}
          proposals={proposed.proposals}
          focus={focus}
          onFocus={onFocus}
          onFill={fill}
          onChangeFill={(fill) => onChange({ ...stage, fills: withFill(stage.fills, { ...fill, id: fill.id || freeId(stage.fills, 'w') }) })}
          onFix={(path) => onChange({ ...stage, fills: withFix(stage.fills, preview, path) })}
          onTry={onTry}
          wrong={wrongRows(preview, stage.id)}
          onAccept={(path) => proposed.accept([path])}
          onDismiss={proposed.dismiss}
          onRecord={onRecord}
        />
      )}
      {preview && stage.columns.length > 0 && preview.keptReplies === 0 && <p className="dim" style={{ padding: '6px 14px', margin: 0 }}>No reply is kept yet: call the service for the sample (Ctrl Enter) to see values here.</p>}
      {adding && <NewDataset kind={stage.document ?? 'csv'} onClose={() => setAdding(false)} onDone={(_, name) => { setAdding(false); onChange({ ...stage, dataset: name }); }} />}
    </div>
  );
}

/** Returns the file with the tables of a whole reply: the first takes the place of the stage, the others follow it. */
function withTables(file: FlowFile, stage: Write, made: EverythingMade): FlowFile {
  const taken = new Set(allStages(file).map((s) => s.id));
  const [first, ...others] = made.tables;
  const its = (table: EverythingMade['tables'][number]) => ({ rows: table.made?.rowPath ?? '', columns: (table.made?.columns ?? []) as Column[], fills: (table.made?.fills ?? []) as Fill[], document: undefined, groups: undefined });
  const changed = withStage(file, stage.id, () => ({ ...stage, ...its(first) }));
  const more = others.map((table): Write => {
    let id = `write_${table.name}`;
    for (let n = 2; taken.has(id); n++) id = `write_${table.name}${n}`;
    taken.add(id);
    return { verb: 'Write', id, mode: 'replace', keys: [], ...its(table) };
  });
  return { ...changed, stages: [...changed.stages, ...more] };
}
