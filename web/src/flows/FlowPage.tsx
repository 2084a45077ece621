import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, App, Skeleton } from 'antd';
import { type ComponentType, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useParams, useSearchParams, useNavigate } from 'react-router';
import { api } from '../api/client';
import {
  type CallStage as Call,
  fillsOf,
  type Flow,
  type FlowFile,
  makesRecord,
  type Stage,
} from '../api/flow';
import { splitsAround, withStage } from '../api/outline';
import type { Preview, RunStage, SheetProposal } from '../api/types';
import { useEnvironment, useLive } from '../shared/environment';
import { SidePane, Trouble, When } from '../shared/parts';
import { useKeys } from '../shared/useKeys';
import { useMe } from '../shared/useMe';
import { type Asked, AskedContext } from './asked';
import css from './flow.module.css';
import { FlowBar } from './FlowBar';
import { GatherPane } from './GatherPane';
import { PartPane } from './PartPane';
import { VerdictPane } from './VerdictPane';
import { LaneStrip, RulePane } from './Lanes';
import { Outline } from './Outline';
import { type PaneProps, PANES } from './panes';
import { ProofLine } from './ProofLine';
import { SamplePane, type Suppose } from './SamplePane';
import { SavedFirst } from './SavedFirst';
import { useDraft } from './useDraft';
import { useOutline } from './useOutline';
import { type Samples, useProof } from './useProof';
import { useSampleCall } from './useSampleCall';
import { withFix } from './useStageTools';
import { LIVE, useStartRun } from './useStartRun';
import { withVariable } from './variables';

/** The flow page: the outline, the stage being worked on, and a sample record seen at that point. */
export function FlowPage() {
  const { id } = useParams();
  const flow = useQuery({
    queryKey: ['flow', id],
    queryFn: () => api.get<Flow>(`/flows/${id}`),
    staleTime: Infinity,
    gcTime: 0,
  });
  if (flow.isPending)
    return (
      <div className="page">
        <Skeleton active />
      </div>
    );
  if (!flow.data)
    return (
      <div className="page">
        <Trouble error={flow.error} retry={() => void flow.refetch()} />
      </div>
    );
  return <Editor key={id} flow={flow.data} />;
}

function Editor({ flow }: { flow: Flow }) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const navigate = useNavigate();
  const environment = useEnvironment();
  const live = useLive();
  const mayRun = useMe().run.includes(environment);
  const [search] = useSearchParams();
  const onSaved = useCallback(
    (saved: Flow) =>
      client.setQueryData(['flow', String(flow.id)], (old: Flow | undefined) =>
        old ? { ...saved, file: old.file } : saved,
      ),
    [client, flow.id],
  );
  const draft = useDraft(flow, onSaved);
  const { file } = draft;
  const [focus, setFocus] = useState<string>();
  const outline = useOutline(file, draft.change, () => setFocus(undefined));
  const { stage, stages, rule } = outline;
  const place = rule?.id ?? (outline.end || outline.part === 'after' ? outline.at : stage.id);
  const pane = useRef<HTMLDivElement>(null);
  const enter = () => pane.current?.querySelector<HTMLElement>(FIELDS)?.focus();
  // a stage that was added is there to be filled
  const added = useRef(false);
  useEffect(() => {
    if (added.current) enter();
    added.current = false;
  }, [place]);
  const call = useMemo(() => callBefore(stages, stage), [stages, stage]);
  const read = stages.find((s) => s.verb === 'Read');
  const [record, setRecord] = useState(() => Math.max(1, Number(search.get('record')) || 1));
  const [samples, setSamples] = useState<Samples>('first');
  const [sheet, setSheet] = useState<SheetProposal[]>();
  const [adding, setAdding] = useState(false);
  const [suppose, setSuppose] = useState<Suppose>({});
  const [items, setItems] = useState<Record<string, number>>({});
  const asked: Asked = { file, stage: place, record, environment, samples, suppose, items };
  const panes = { ...asked, flowId: flow.id };
  const settled = useSettled(asked, 120);
  const preview = useQuery({
    queryKey: ['preview', flow.id, settled],
    queryFn: ({ signal }) => api.post<Preview>(`/flows/${flow.id}/preview`, settled, signal),
    placeholderData: (before) => before,
    gcTime: 10_000,
  });
  const problems = preview.data?.problems ?? flow.problems;
  const attention = preview.data?.attention ?? [];
  const total = preview.data?.records ?? flow.records;
  // how many records an operation gives is known once it is asked
  const asksOperation = read?.verb === 'Read' && read.from !== undefined;
  const answers = read?.verb === 'Read' && read.input !== undefined;
  const { proof, cancel } = useProof(
    flow.id,
    file,
    samples,
    call?.id,
    environment,
    call?.operation !== undefined && total > 0,
  );
  const shown = useMemo(
    () =>
      overAll(preview.data, samples === 'all' && stage.verb === 'Call' && !rule ? proof?.fields : undefined),
    [preview.data, samples, proof, stage.verb, rule],
  );
  const sampleCall = useSampleCall(flow.id, call, asked);
  const { starting, run } = useStartRun(
    flow.id,
    environment,
    {
      calls: stages.filter((s): s is Call => s.verb === 'Call'),
      problems: problems.length,
      records: asksOperation ? undefined : total,
    },
    draft.settled,
  );

  const blame = search.get('blame');
  useEffect(() => {
    if (!blame) return;
    setFocus(
      fillsOf(stage).find((f) => f.id === blame)?.target ?? (blame.startsWith('/') ? blame : undefined),
    );
    // only when the link is followed, not on every edit
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [blame, stage.id]);

  const change = useCallback(
    (next: Stage) => draft.change((f) => withStage(f, next.id, () => next)),
    [draft],
  );
  const onVariable = (name: string) => {
    if (stages.some((s) => 'as' in s && s.as === name) || ['run', 'env'].includes(name))
      void message.error(`There is a $${name} already; choose another name.`);
    else draft.change((f) => withVariable(f, stage.id, name));
  };
  const fixField = (path: string) => {
    if ('fills' in stage) change({ ...stage, fills: withFix(fillsOf(stage), shown, path) } as Stage);
  };
  useKeys(
    {
      '[': () => setRecord((n) => Math.max(1, n - 1)),
      ']': () => setRecord((n) => Math.min(Math.max(1, total), n + 1)),
      'Ctrl+Enter': sampleCall.start,
      'Ctrl+z': () => void draft.undo(),
      'Ctrl+y': draft.redo,
      'Ctrl+Shift+z': draft.redo,
      r: () => mayRun && !answers && run(0),
      a: () => setAdding(true),
      e: enter,
      d: outline.duplicate,
      'Shift+c': () =>
        void (outline.copy()
          ? message.info('Copied: Shift V pastes it, in any flow')
          : message.info('Choose a stage to copy; a Read is not copied')),
      'Shift+v': () => outline.paste() || void message.info('Nothing is copied yet: Shift C copies a stage'),
      'Alt+ArrowUp': () => outline.move(true),
      'Alt+ArrowDown': () => outline.move(false),
      'Alt+ArrowLeft': () => outline.step(-1),
      'Alt+ArrowRight': () => outline.step(1),
      'Shift+Delete': () => outline.at === stage.id && stage.verb !== 'Read' && outline.remove(stage.id),
      ...Object.fromEntries(
        file.stages.slice(0, 9).map((s, i) => [String(i + 1), () => outline.choose(s.id)]),
      ),
    },
    ['Ctrl+Enter'],
  );
  useEscape();

  const counts = useMemo(
    () => (flow.lastRun ? (JSON.parse(flow.lastRun.stages) as Record<string, RunStage>) : {}),
    [flow.lastRun],
  );
  const its = {
    file,
    number: outline.number,
    call,
    preview: shown,
    focus,
    sheet,
    onSheet: () => setSheet(undefined),
    onFocus: setFocus,
    onFile: (next: FlowFile) => draft.change(() => next),
    onRemove: () => outline.remove(stage.id),
    onRecord: setRecord,
  };
  const Pane = PANES[stage.verb] as ComponentType<PaneProps<Stage>>;
  const saved = {
    saved: 'Saved',
    saving: 'Saving …',
    changed: 'Saving …',
    failed: 'Not saved',
    conflict: 'Not saved',
  }[draft.saving];
  const wrong = Object.values(shown?.fields ?? {}).filter((v) => v.problem).length;
  return (
    <div className={css.page}>
      <FlowBar
        flowId={flow.id}
        file={file}
        revision={draft.revision}
        attention={attention}
        last={flow.lastRun ?? undefined}
        filled={
          outline.end === 'gather' || makesRecord(stage, rule) ? place : call?.operation ? call.id : undefined
        }
        sample={{ record, environment }}
        settled={draft.settled}
        onRename={(name) => draft.change((f) => ({ ...f, name }))}
        onChange={(next) => draft.change(() => next)}
        onProblem={(at, field) => {
          if (at) outline.choose(at);
          if (field) setTimeout(() => setFocus(field), 0);
        }}
        onSheet={(of, proposals) => {
          outline.choose(of);
          setSheet(proposals);
        }}
      >
        {answers ? (
          <Button type="primary" onClick={() => navigate(`/flows/${flow.id}/callers`)}>
            Callers
          </Button>
        ) : (
          <>
            <Button onClick={() => run(5)} disabled={(total === 0 && !asksOperation) || !mayRun}>
              Try 5
            </Button>
            <Button
              type="primary"
              style={live(environment) ? LIVE : undefined}
              loading={starting}
              title={mayRun ? undefined : `You may not run in ${environment}`}
              disabled={(total === 0 && !asksOperation) || !mayRun}
              onClick={() => run(0)}
            >
              Run {asksOperation ? '' : `${total} `}in {environment}
            </Button>
          </>
        )}
      </FlowBar>
      <div className={css.body}>
        <SidePane name="outline" side="left" start={228} min={150} max={360}>
          <Outline
            file={file}
            chosen={outline.at}
            lastRun={flow.lastRun ?? undefined}
            stages={counts}
            way={shown?.way}
            attention={attention}
            onChoose={outline.choose}
            onAdd={(what) => {
              added.current = what !== 'rejected';
              outline.add(what);
            }}
            adding={adding}
            failing={outline.failing}
            onAdding={setAdding}
          />
        </SidePane>
        <div ref={pane} className={css.stage} key={place}>
          <AskedContext.Provider value={panes}>
            {rule ? (
              <RulePane {...its} rule={rule} onChoose={outline.choose} />
            ) : outline.part ? (
              <PartPane {...its} part={outline.part} />
            ) : outline.end && stage.verb === 'Split' ? (
              <GatherPane {...its} stage={stage} onChange={change} />
            ) : outline.end && stage.verb === 'Batch' ? (
              <VerdictPane {...its} stage={stage} onChange={change} />
            ) : (
              <>
                <Pane {...its} stage={stage} onChange={change} onVariable={onVariable} />
                <LaneStrip file={file} stage={stage} onFile={its.onFile} onChoose={outline.choose} />
              </>
            )}
          </AskedContext.Provider>
        </div>
        <SidePane name="sample" side="right" start={290} min={200} max={640}>
          <SamplePane
            preview={shown}
            stage={stage}
            stages={stages}
            call={call}
            record={record}
            variable={read?.as ?? 'record'}
            calling={sampleCall.calling}
            splits={splitsAround(file, place)}
            items={items}
            onItem={(split, item) => setItems({ ...items, [split]: item })}
            suppose={suppose}
            onSuppose={setSuppose}
            onRecord={setRecord}
            onCall={sampleCall.start}
            onFix={fixField}
            onField={setFocus}
            onChoose={outline.choose}
          />
          {call?.operation && total > 0 && (
            <ProofLine
              samples={samples}
              onSamples={setSamples}
              records={total}
              proof={proof}
              onCancel={cancel}
              onRecord={setRecord}
            />
          )}
        </SidePane>
      </div>
      <footer className={css.foot}>
        <span>
          {read?.as ?? 'record'} {record}
          {wrong > 0 && ` · ${wrong} ${wrong === 1 ? 'problem' : 'problems'}`}
        </span>
        {shown?.kept && (
          <span>
            Reply kept <When at={shown.kept.calledAt} />,{' '}
            <button type="button" className="linkish dim" onClick={sampleCall.start}>
              call again …
            </button>
          </span>
        )}
        {preview.error && <span className="bad clip">{preview.error.message}</span>}
        <span className="grow" />
        <span>
          <kbd>?</kbd> keys
        </span>
        <span className={draft.saving === 'failed' ? 'bad' : ''} title={draft.problem?.message}>
          {saved}
          {draft.saving === 'failed' && `: ${draft.problem?.message}`}
        </span>
      </footer>
      <SavedFirst
        problem={draft.saving === 'conflict' ? draft.problem : undefined}
        onMine={draft.overwrite}
      />
    </div>
  );
}

/**
 * Escape leaves a field, so that keys are the page's again. Lists keep Escape to themselves: it is seen before them; a
 * fill being typed and what stands over the page leave in their own ways.
 */
function useEscape() {
  useEffect(() => {
    const leave = (e: KeyboardEvent) => {
      const on = document.activeElement;
      if (
        e.key === 'Escape' &&
        on instanceof HTMLElement &&
        !on.closest('[aria-label=Fill], .ant-popover, .ant-modal')
      )
        on.blur();
    };
    window.addEventListener('keydown', leave, true);
    return () => window.removeEventListener('keydown', leave, true);
  }, []);
}

/** What can be filled in a stage's pane, in the order the keyboard goes through it. */
const FIELDS = 'input:not([type=hidden]):not([disabled]), textarea:not([disabled])';

/** Returns the call that is the stage, or the last one before it. */
function callBefore(stages: Stage[], stage: Stage): Call | undefined {
  if (stage.verb === 'Call') return stage;
  const before = stages
    .slice(
      0,
      stages.findIndex((s) => s.id === stage.id),
    )
    .filter((s): s is Call => s.verb === 'Call');
  return before[before.length - 1] ?? stages.find((s): s is Call => s.verb === 'Call');
}

/** Returns a preview whose coverage is that of all records. */
function overAll(preview: Preview | undefined, fields: Preview['fields'] | undefined): Preview | undefined {
  if (!preview || !fields) return preview;
  const merged = Object.fromEntries(
    Object.entries(preview.fields).map(([path, v]) => {
      const all = fields[path];
      return [
        path,
        all ? { ...v, fine: all.fine, empty: all.empty, invalid: all.invalid, offenders: all.offenders } : v,
      ];
    }),
  );
  return { ...preview, fields: merged };
}

/** Returns a value once it has not changed for a while. */
function useSettled<T extends object>(value: T, millis: number): T {
  const [settled, setSettled] = useState(value);
  const parts = Object.values(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), millis);
    return () => clearTimeout(timer);
    // the parts decide, not the object around them
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [...parts, millis]);
  return settled;
}
