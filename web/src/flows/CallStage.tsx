import { App, Button, Input, Segmented, Select } from 'antd';
import { useEffect, useMemo, useRef, useState } from 'react';
import { api } from '../api/client';
import { type CallStage as Call, type FlowFile, freeId, readFill, withFill, type ValueFormat } from '../api/flow';
import type { Preview, SheetRow, Suggestion } from '../api/types';
import { FieldName } from '../shared/SheetTable';
import { useKeys } from '../shared/useKeys';
import { DeliveryForm } from './DeliveryForm';
import css from './flow.module.css';
import { FillSheet, type Target } from './FillSheet';
import { ReplyPart } from './ReplyPart';
import { useContracts, useOperations, useSheet } from './useChoices';

type Part = 'Request' | 'Reply' | 'Delivery';
type Show = 'required' | 'filled' | 'all' | 'problems';

/** A Call: its request sheet being filled, then its reply, then its delivery. */
export function CallStage({
  flowId, file, stage, number, preview, record, environment, focus, onFocus, onChange, onRecord,
}: {
  flowId: number;
  file: FlowFile;
  stage: Call;
  number: number;
  preview: Preview | undefined;
  record: number;
  environment: string;
  focus: string | undefined;
  onFocus: (path: string) => void;
  onChange: (stage: Call) => void;
  onRecord: (record: number) => void;
}) {
  const { message } = App.useApp();
  const [part, setPart] = useState<Part>('Request');
  const [text, setText] = useState('');
  const [show, setShow] = useState<Show>('all');
  const [suggestions, setSuggestions] = useState<Map<string, Suggestion>>(new Map());
  const [asking, setAsking] = useState(false);
  const search = useRef<HTMLInputElement>(null);
  const contracts = useContracts();
  const operations = useOperations(stage.contract);
  const rows = useSheet(stage, 'request');
  const values = preview?.fields ?? {};
  const filled = useMemo(() => new Set(stage.fills.map((f) => f.target)), [stage.fills]);
  const operation = operations.find((o) => o.port === stage.port && o.key === stage.operation);
  const problem = (row: SheetRow) =>
    (values[row.path]?.invalid ?? 0) > 0 || (preview?.problems.some((p) => p.field === row.path) ?? false);
  const counts = {
    required: rows.filter((r) => r.leaf && requiredAllTheWay(r, rows)).length,
    filled: filled.size,
    all: rows.filter((r) => r.leaf).length,
    problems: rows.filter(problem).length,
  };
  const targets = useMemo<Target[]>(() => {
    const wanted = text.trim().toLowerCase();
    const keep = new Set<string>();
    for (const row of rows) {
      const fits = !wanted || `${row.name} ${row.documentation}`.toLowerCase().includes(wanted);
      const shown =
        show === 'all' ||
        (show === 'required' && requiredAllTheWay(row, rows)) ||
        (show === 'filled' && filled.has(row.path)) ||
        (show === 'problems' && problem(row));
      if (fits && shown) for (let path = row.path; path; path = rows.find((r) => r.path === path)?.parent ?? '') keep.add(path);
    }
    return rows.filter((r) => keep.has(r.path)).map((row) => {
      const leaves = row.leaf ? [] : rows.filter((r) => r.leaf && r.path.startsWith(`${row.path}/`));
      return {
        path: row.path,
        search: row.name,
        name: <FieldName row={row} />,
        fillable: row.leaf,
        repeats: row.max !== 1,
        required: row.required,
        values: row.values,
        filledBelow: leaves.length ? `${leaves.filter((l) => filled.has(l.path)).length} of ${leaves.length} filled` : undefined,
      };
    });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [rows, text, show, filled, preview]);

  useEffect(() => {
    if (!focus && targets.length > 0) onFocus((targets.find((t) => t.fillable) ?? targets[0]).path);
  }, [focus, targets, onFocus]);

  const fill = (path: string, typed: string) => {
    const row = rows.find((r) => r.path === path);
    const read = readFill(typed);
    const before = stage.fills.find((f) => f.target === path);
    if (!read) {
      if (before) onChange({ ...stage, fills: stage.fills.filter((f) => f.target !== path) });
      return;
    }
    const id = before?.id ?? freeId(stage.fills, 'q');
    const repeats = row && !row.leaf && read.wire;
    const made = repeats
      ? { id, target: path, repeat: read.wire, as: String(read.wire).split('/').pop()?.replace('$', '') ?? 'item' }
      : { id, target: path, ...read, ...(before?.format && read.wire ? { format: before.format } : {}) };
    onChange({ ...stage, fills: withFill(stage.fills, made) });
  };
  const format = (path: string, wanted: ValueFormat | undefined) => {
    onChange({ ...stage, fills: stage.fills.map((f) => (f.target === path ? { ...f, format: wanted } : f)) });
  };
  const suggest = async () => {
    setAsking(true);
    try {
      const found = await api.post<Suggestion[]>(`/flows/${flowId}/suggestions`, { file, stage: stage.id, record, environment });
      setSuggestions(new Map(found.map((s) => [s.target, s])));
      setPart('Request');
      setShow('all');
      if (found.length === 0) void message.info('Nothing more to suggest: no unused field is like an unfilled one.');
      else onFocus(rows.find((r) => found.some((s) => s.target === r.path))?.path ?? found[0].target);
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e));
    } finally {
      setAsking(false);
    }
  };
  const accept = (paths: string[]) => {
    let fills = stage.fills;
    const left = new Map(suggestions);
    for (const path of paths) {
      const s = suggestions.get(path);
      if (!s) continue;
      fills = withFill(fills, { id: freeId(fills, 'q'), target: path, wire: s.wire, ...(s.format ? { format: s.format as ValueFormat } : {}) });
      left.delete(path);
    }
    setSuggestions(left);
    onChange({ ...stage, fills });
  };
  const dismiss = (path: string) => {
    const left = new Map(suggestions);
    left.delete(path);
    setSuggestions(left);
  };
  useKeys({ s: () => void suggest(), '/': () => search.current?.focus() });
  const good = [...suggestions.values()].filter((s) => s.score >= 0.6).map((s) => s.target);

  return (
    <div className={css.stage}>
      <div className={css.stageHead}>
        <h2>{number} · Call</h2>
        <Select size="small" variant="filled" aria-label="Contract" placeholder="contract" style={{ minWidth: 130 }} popupMatchSelectWidth={false} value={stage.contract} options={contracts.map((c) => ({ value: c.name, label: c.name }))} onChange={(contract) => onChange({ ...stage, contract, endpoint: contract, service: undefined, port: undefined, operation: undefined, fills: [] })} />
        <Select
          size="small"
          variant="filled"
          aria-label="Operation"
          placeholder="operation"
          popupMatchSelectWidth={false}
          style={{ minWidth: 170 }}
          value={stage.operation ? `${stage.service}|${stage.port}|${stage.operation}` : undefined}
          options={operations.filter((o) => o.callable).map((o) => ({ value: `${o.service}|${o.port}|${o.key}`, label: `${o.key} · ${o.port}` }))}
          onChange={(picked: string) => {
            const [service, port, key] = picked.split('|');
            const its = operations.find((o) => o.port === port && o.key === key);
            onChange({ ...stage, service, port, operation: key, fills: key === stage.operation ? stage.fills : [], delivery: { ...stage.delivery, effect: its?.effect === 'reads' ? 'reads' : 'changes' } });
          }}
        />
        <span className="dim clip grow">
          {operation && `SOAP ${operation.soapVersion}`} · {stage.delivery.effect === 'reads' ? 'reads' : 'changes data'} · as <span className="mono">${stage.as}</span>
        </span>
      </div>
      <div className={css.tools}>
        <Segmented<Part> size="small" value={part} onChange={setPart} options={['Request', 'Reply', 'Delivery']} />
        {part === 'Request' && (
          <>
            <Input ref={search as never} size="small" allowClear placeholder="Find a field  /" style={{ width: 130 }} value={text} onChange={(e) => setText(e.target.value)} onKeyDown={(e) => (e.key === 'Enter' || e.key === 'Escape') && e.currentTarget.blur()} />
            {(suggestions.size > 0 ? (['all', 'problems'] as const) : (['required', 'filled', 'all', 'problems'] as const)).map((s) => (
              <button key={s} type="button" className={`${css.filter} ${show === s ? css.filterOn : ''} ${s === 'problems' && counts.problems ? 'bad' : ''}`} onClick={() => setShow(s)}>
                {s[0].toUpperCase() + s.slice(1)} {counts[s]}
              </button>
            ))}
            <span className="grow" />
            {suggestions.size > 0 && good.length > 0 && <Button size="small" type="primary" title="all that score 0.60 or more" onClick={() => accept(good)}>Accept {good.length}</Button>}
            {suggestions.size > 0 && <Button size="small" type="text" onClick={() => setSuggestions(new Map())}>Dismiss</Button>}
            <Button size="small" loading={asking} onClick={() => void suggest()}>Suggest{suggestions.size > 0 ? ` ${suggestions.size}` : ''}</Button>
          </>
        )}
      </div>
      {part === 'Request' &&
        (rows.length > 0 ? (
          <FillSheet
            heading={`${stage.operation ?? ''} request`}
            targets={targets}
            fills={stage.fills}
            values={values}
            sources={preview?.sources ?? []}
            suggestions={suggestions}
            focus={focus}
            onFocus={onFocus}
            onFill={fill}
            onFormat={format}
            onAccept={(path) => accept([path])}
            onDismiss={dismiss}
            onRecord={onRecord}
          />
        ) : (
          <p className="dim" style={{ padding: 16 }}>{stage.operation ? 'Reading the contract …' : 'Pick a contract and an operation above; its request then stands here to be filled.'}</p>
        ))}
      {part === 'Reply' && <ReplyPart stage={stage} preview={preview} onChange={onChange} />}
      {part === 'Delivery' && <DeliveryForm stage={stage} onChange={onChange} />}
    </div>
  );
}

function requiredAllTheWay(row: SheetRow, rows: SheetRow[]): boolean {
  for (let at: SheetRow | undefined = row; at && at.depth > 0; at = rows.find((r) => r.path === at?.parent)) {
    if (!at.required) return false;
  }
  return true;
}
