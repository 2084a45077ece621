import { App, Button, Input, Segmented, Select } from 'antd';
import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { api } from '../api/client';
import { type CallStage as Call, type FlowFile, freeId, readFill, withFill, type ValueFormat } from '../api/flow';
import type { Preview, SheetRow, Suggestion } from '../api/types';
import { FieldName } from '../shared/FieldName';
import { type MessageAt, PickMenu } from '../shared/PickMenu';
import { useKeys } from '../shared/useKeys';
import { DeliveryForm } from './DeliveryForm';
import css from './flow.module.css';
import { FillSheet, type Target } from './FillSheet';
import { ReplyPart } from './ReplyPart';
import { LostFills } from './LostFills';
import { pickPaths, repicked, withChosen, withNextRow, withoutFilledRow } from './pickFills';
import { useContractId, useContracts, useOperations, useSheet } from './useChoices';

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
  const contractId = useContractId(stage);
  const [open, setOpen] = useState<string[]>([]);
  const [closed, setClosed] = useState<string[]>([]);
  const [large, setLarge] = useState(false);
  const sought = useDeferredValue(text.trim());
  const picks = useMemo(() => pickPaths(stage.fills), [stage.fills]);
  const page = useSheet(stage, 'request', picks, open, closed, large ? sought : '');
  const rows = useMemo(() => page?.rows ?? [], [page]);
  const byPath = useMemo(() => new Map(rows.map((r) => [r.path, r])), [rows]);
  const certain = useMemo(() => requiredAllTheWay(rows, byPath), [rows, byPath]);
  const at: MessageAt = { service: stage.service, port: stage.port, operation: stage.operation, message: 'request' };
  // what is collapsed is not here: then the server searches
  useEffect(() => setLarge(page !== undefined && (page.more || page.fields > page.total)), [page]);
  const values = preview?.fields ?? {};
  const filled = useMemo(() => new Set(stage.fills.map((f) => f.target)), [stage.fills]);
  const operation = operations.find((o) => o.port === stage.port && o.key === stage.operation);
  const problem = (row: SheetRow) =>
    (values[row.path]?.invalid ?? 0) > 0 || (preview?.problems.some((p) => p.field === row.path) ?? false);
  const counts = {
    required: rows.filter((r) => r.leaf && certain.has(r.path)).length,
    filled: stage.fills.filter((f) => !f.pick).length,
    all: rows.filter((r) => r.leaf).length,
    problems: rows.filter(problem).length,
  };
  const change = (fills: Call['fills']) => onChange({ ...stage, fills });
  const toggle = (row: SheetRow) => {
    setOpen(row.expanded ? open.filter((p) => p !== row.path) : [...open, row.path]);
    setClosed(row.expanded ? [...closed, row.path] : closed.filter((p) => p !== row.path));
  };
  const targets = useMemo<Target[]>(() => {
    const wanted = text.trim().toLowerCase();
    const keep = new Set<string>();
    for (const row of rows) {
      const fits = large || !wanted || `${row.name} ${row.type} ${row.documentation}`.toLowerCase().includes(wanted);
      const shown =
        show === 'all' ||
        (show === 'required' && certain.has(row.path)) ||
        (show === 'filled' && filled.has(row.path)) ||
        (show === 'problems' && problem(row));
      if (fits && shown) for (let path = row.path; path && !keep.has(path); path = byPath.get(path)?.parent ?? '') keep.add(path);
    }
    const below = new Map<string, { leaves: number; filled: number }>();
    for (const row of rows) {
      if (!row.leaf) continue;
      for (let path = row.parent; path; path = byPath.get(path)?.parent ?? '') {
        const count = below.get(path) ?? { leaves: 0, filled: 0 };
        below.set(path, { leaves: count.leaves + 1, filled: count.filled + (filled.has(row.path) ? 1 : 0) });
      }
    }
    return rows.filter((r) => keep.has(r.path)).map((row) => {
      const count = row.leaf ? undefined : below.get(row.path);
      const chosen = stage.fills.some((f) => f.pick && f.target === row.path);
      const isOn = row.path === focus;
      return {
        path: row.path,
        search: row.name,
        name: <FieldName row={row} onToggle={row.expandable ? () => toggle(row) : undefined} />,
        action: (
          <>
            {(row.typeChoices > 0 || row.elementChoices > 1) && contractId !== undefined && (
              <PickMenu contract={contractId} at={at} row={row} onPick={(path) => { change(repicked(stage.fills, row, path)); onFocus(path); }} />
            )}
            {row.choice && chosen && <span className="chip fine">chosen</span>}
            {isOn && row.choice && !chosen && <button type="button" className="linkish" onClick={() => change(withChosen(stage.fills, row, rows))}>this one</button>}
            {isOn && row.next && <button type="button" className="linkish" onClick={() => { change(withNextRow(stage.fills, row)); onFocus(row.next ?? row.path); }}>add another</button>}
            {isOn && row.occurrence > 1 && <button type="button" className="linkish" onClick={() => change(withoutFilledRow(stage.fills, row))}>remove</button>}
          </>
        ),
        fillable: row.leaf,
        repeats: row.max !== 1,
        required: row.required,
        values: row.values,
        filledBelow: count ? `${count.filled} of ${count.leaves} filled` : row.expandable && !row.expanded ? 'not expanded' : undefined,
      };
    });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [rows, text, show, filled, preview, focus, stage.fills]);

  useEffect(() => {
    if (!focus && targets.length > 0) onFocus((targets.find((t) => t.fillable) ?? targets[0]).path);
  }, [focus, targets, onFocus]);

  const fill = (path: string, typed: string) => {
    const row = byPath.get(path);
    const read = readFill(typed);
    const before = stage.fills.find((f) => f.target === path);
    if (!read) {
      if (before?.pick && row) change(withoutFilledRow(stage.fills, row));
      else if (before) onChange({ ...stage, fills: stage.fills.filter((f) => f.target !== path) });
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
          {operation?.protocol} · {stage.delivery.effect === 'reads' ? 'reads' : 'changes data'} · as <span className="mono">${stage.as}</span>
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
        <LostFills stage={stage} preview={preview} onChange={onChange} />}
      {part === 'Request' &&
        (rows.length > 0 || large ? (
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

/** Returns the paths of the rows that are in every message: required, and so is everything above them. */
function requiredAllTheWay(rows: SheetRow[], byPath: Map<string, SheetRow>): Set<string> {
  const certain = new Set<string>();
  for (const row of rows) {
    const above = byPath.get(row.parent);
    if (row.depth > 0 && row.required && (!above || above.depth === 0 || certain.has(above.path))) certain.add(row.path);
  }
  return certain;
}
