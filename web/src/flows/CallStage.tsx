import { App, Input, Segmented } from 'antd';
import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { api } from '../api/client';
import { type CallStage as Call, type Fill, fillKept, freeId, readFill, withFill } from '../api/flow';
import type { PaneProps } from './panes';
import type { SheetRow, SubtreeDifferences } from '../api/types';
import { FieldName } from '../shared/FieldName';
import { NONE } from '../shared/none';
import type { MessageAt } from '../shared/PickMenu';
import { useKeys } from '../shared/useKeys';
import { DeliveryForm } from './DeliveryForm';
import { Differences } from './Differences';
import { CallHead } from './CallHead';
import { useAsked } from './asked';
import css from './flow.module.css';
import { FillSheet, type Target } from './FillSheet';
import { LearnDocument } from './LearnDocument';
import { useTakenSheet } from './useTakenSheet';
import { useTry, withFix, wrongRows } from './useStageTools';
import { ReplyPart } from './ReplyPart';
import { LostFills } from './LostFills';
import { filledBelow, requiredAllTheWay, withAbove } from './requestRows';
import { RowActions } from './RowActions';
import { SuggestButtons } from './SuggestButtons';
import { useProposals } from './useProposals';
import { pickPaths, withoutFilledRow } from './pickFills';
import { useContractId, useDatasets, useSheet } from './useChoices';

const PARTS = ['Request', 'Reply', 'Delivery'] as const;
type Part = (typeof PARTS)[number];
type Show = 'required' | 'filled' | 'all' | 'problems';

/** A Call: its request sheet being filled, then its reply, then its delivery. */
export function CallStage({
  file,
  stage,
  number,
  preview,
  focus,
  sheet,
  onSheet,
  onFocus,
  onChange,
  onVariable,
  onRemove,
  onRecord,
}: PaneProps<Call>) {
  const { message, modal } = App.useApp();
  const [part, setPart] = useState<Part>('Request');
  const [text, setText] = useState('');
  const [show, setShow] = useState<Show>('all');
  const [learning, setLearning] = useState<string>();
  const { flowId, record, environment } = useAsked();
  const onTry = useTry();
  const search = useRef<HTMLInputElement>(null);
  const datasets = useDatasets();
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
  const at: MessageAt = {
    service: stage.service,
    port: stage.port,
    operation: stage.operation,
    message: 'request',
  };
  // what is collapsed is not here: then the server searches
  useEffect(() => setLarge(page !== undefined && (page.more || page.fields > page.total)), [page]);
  const values = preview?.fields ?? {};
  const filled = useMemo(() => new Set(stage.fills.map((f) => f.target)), [stage.fills]);
  const wrong = useMemo(() => wrongRows(preview, stage.id), [preview, stage.id]);
  const attention = useMemo(
    () => new Set((preview?.attention ?? []).filter((a) => a.stage === stage.id).map((a) => a.field)),
    [preview, stage.id],
  );
  const problem = (row: SheetRow) => attention.has(row.path);
  const counts = {
    required: rows.filter((r) => r.leaf && certain.has(r.path)).length,
    filled: stage.fills.filter((f) => !f.pick).length,
    all: rows.filter((r) => r.leaf).length,
    problems: (preview?.attention ?? []).filter((a) => a.stage === stage.id).length,
  };
  const change = (fills: Call['fills']) => onChange({ ...stage, fills });
  const proposed = useProposals(stage, 'q', change);
  const { proposals } = proposed;
  const toggle = (row: SheetRow) => {
    setOpen(row.expanded ? open.filter((p) => p !== row.path) : [...open, row.path]);
    setClosed(row.expanded ? [...closed, row.path] : closed.filter((p) => p !== row.path));
  };
  const targets = useMemo<Target[]>(() => {
    const wanted = text.trim().toLowerCase();
    const keep = withAbove(
      byPath,
      rows.filter(
        (row) =>
          (large ||
            !wanted ||
            `${row.name} ${row.type} ${row.documentation}`.toLowerCase().includes(wanted)) &&
          (show === 'all' ||
            (show === 'required' && certain.has(row.path)) ||
            (show === 'filled' && filled.has(row.path)) ||
            (show === 'problems' && problem(row))),
      ),
    );
    const below = filledBelow(rows, byPath, filled);
    return rows
      .filter((r) => keep.has(r.path))
      .map((row) => {
        const count = row.leaf ? undefined : below.get(row.path);
        return {
          path: row.path,
          search: row.name,
          name: <FieldName row={row} onToggle={row.expandable ? () => toggle(row) : undefined} />,
          action: (
            <RowActions
              row={row}
              stage={stage}
              rows={rows}
              at={at}
              contract={contractId}
              focused={row.path === focus}
              onChange={onChange}
              onFocus={onFocus}
              onLearn={() => setLearning(row.path)}
            />
          ),
          fillable: row.leaf,
          file: row.binary ? 'send' : undefined,
          repeats: row.max !== 1 && (!row.leaf || row.occurrence >= 1),
          subtree: !row.leaf && row.max === 1 && row.expandable && row.depth > 0,
          required: row.required,
          values: row.values,
          filledBelow: count
            ? `${count.filled} of ${count.leaves} filled`
            : row.expandable && !row.expanded
              ? 'not expanded'
              : undefined,
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
    const id = before && !before.pick ? before.id : freeId(stage.fills, 'q');
    const source = read.wire && preview?.sources.flatMap((g) => g.fields).find((f) => f.wire === read.wire);
    if (row && !row.leaf && row.max === 1) {
      if (read.wire) void copySubtree(id, path, read.wire);
      return;
    }
    const repeats = read.wire && row && row.max !== 1 && (!row.leaf || (source && source.repeats));
    const made: Fill = repeats
      ? {
          id,
          target: path,
          repeat: read.wire,
          as: before?.as ?? (String(read.wire).split('/').pop()?.replace(/[$@]/, '') || 'item'),
          each: before?.each,
          when: before?.when,
          remark: before?.remark,
        }
      : {
          id,
          target: path,
          ...read,
          ...fillKept(before),
          ...(row && !before ? sendsFile(row, read.wire) : {}),
          ...(read.join && before?.join ? { join: { ...before.join, ...read.join } } : {}),
        };
    onChange({ ...stage, fills: withFill(stage.fills, made) });
  };
  /** The name of a file the flow reads, in a field of base64: its content is meant. */
  const sendsFile = (row: SheetRow, wire: string | undefined): Partial<Fill> => {
    const read = file.stages.find((s) => s.verb === 'Read');
    const isFolder =
      read?.dataset !== undefined && datasets.some((d) => d.name === read.dataset && d.kind === 'folder');
    return row.binary && read && isFolder && wire === `$${read.as}/name`
      ? { file: { folder: String(read.dataset) } }
      : {};
  };
  const copySubtree = async (id: string, path: string, from: string) => {
    try {
      const found = await api.post<SubtreeDifferences>(`/flows/${flowId}/differences`, {
        file,
        stage: stage.id,
        record,
        environment,
        target: path,
        from,
      });
      modal.confirm({
        title: `All of ${path.replace(/.*[/}]/, '')} from ${from}`,
        width: 520,
        content: <Differences found={found} from={from} />,
        okText: `Fill ${found.same.length} fields`,
        okButtonProps: { disabled: found.same.length === 0 },
        onOk: () => onChange({ ...stage, fills: withFill(stage.fills, { id, target: path, copy: from }) }),
      });
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e));
    }
  };
  const changeFill = (fill: Fill) =>
    onChange({
      ...stage,
      fills: withFill(stage.fills, { ...fill, id: fill.id || freeId(stage.fills, 'q') }),
    });
  const suggest = async () => {
    const found = new Set(await proposed.suggest());
    setPart('Request');
    setShow('all');
    const first = rows.find((r) => found.has(r.path))?.path;
    if (first) onFocus(first);
  };
  useTakenSheet(sheet, onSheet, proposed.show, (first) => {
    setPart('Request');
    setShow('all');
    if (first) onFocus(first);
  });
  useKeys({
    s: () => void suggest(),
    p: () => setPart(PARTS[(PARTS.indexOf(part) + 1) % PARTS.length]),
    '/': () => search.current?.focus(),
  });

  return (
    <div className={css.stage}>
      <CallHead file={file} stage={stage} number={number} onChange={onChange} onRemove={onRemove} />
      <div className={css.tools}>
        <Segmented<Part>
          aria-label="Side of the call"
          size="small"
          value={part}
          onChange={setPart}
          options={[...PARTS]}
        />
        {part === 'Request' && (
          <>
            <Input
              ref={search as never}
              size="small"
              allowClear
              placeholder="Find a field  /"
              className="field-m"
              value={text}
              onChange={(e) => setText(e.target.value)}
              onKeyDown={(e) => (e.key === 'Enter' || e.key === 'Escape') && e.currentTarget.blur()}
            />
            {(proposals.size > 0
              ? (['all', 'problems'] as const)
              : (['required', 'filled', 'all', 'problems'] as const)
            ).map((s) => (
              <button
                key={s}
                type="button"
                className={[
                  css.filter,
                  show === s && css.filterOn,
                  s === 'problems' && counts.problems && 'bad',
                ]
                  .filter(Boolean)
                  .join(' ')}
                onClick={() => setShow(s)}
              >
                {s[0].toUpperCase() + s.slice(1)} {counts[s]}
              </button>
            ))}
            <span className="grow" />
            <SuggestButtons proposed={proposed} onSuggest={() => void suggest()} />
          </>
        )}
      </div>
      {part === 'Request' && <LostFills stage={stage} preview={preview} onChange={onChange} />}
      {part === 'Request' &&
        (rows.length > 0 || large ? (
          <FillSheet
            heading={`${stage.operation ?? ''} request`}
            targets={targets}
            fills={stage.fills}
            values={values}
            sources={preview?.sources ?? NONE}
            proposals={proposals}
            focus={focus}
            onFocus={onFocus}
            onFill={fill}
            onChangeFill={changeFill}
            onFix={(path) => onChange({ ...stage, fills: withFix(stage.fills, preview, path) })}
            onTry={onTry}
            wrong={wrong}
            onAccept={(path) => proposed.accept([path])}
            onDismiss={proposed.dismiss}
            onRecord={onRecord}
          />
        ) : (
          <p className="dim pad-l">
            {stage.operation
              ? 'Reading the contract …'
              : 'Pick a contract and an operation above; its request is then filled here.'}
          </p>
        ))}
      {part === 'Reply' && (
        <ReplyPart
          flowId={flowId}
          file={file}
          environment={environment}
          stage={stage}
          preview={preview}
          onChange={onChange}
          onVariable={onVariable}
          onTry={onTry}
        />
      )}
      {part === 'Delivery' && (
        <DeliveryForm
          stage={stage}
          source={file.stages.some((s) => s.verb === 'Read' && s.from?.call.id === stage.id)}
          onChange={onChange}
        />
      )}
      {learning && (
        <LearnDocument
          flowId={flowId}
          file={file}
          stage={stage}
          path={learning}
          environment={environment}
          onClose={() => setLearning(undefined)}
          onDone={(next) => {
            setLearning(undefined);
            setOpen([...open, learning]);
            onChange(next);
          }}
        />
      )}
    </div>
  );
}
