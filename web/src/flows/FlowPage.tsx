import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Dropdown, Modal, Popover, Skeleton } from 'antd';
import { type ComponentType, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import { api, ApiProblem } from '../api/client';
import { type CallStage as Call, fillsOf, type Flow, type FlowFile, type Stage } from '../api/flow';
import {
  allStages,
  duplicated,
  moved,
  outlineLines,
  withLane,
  withoutStage,
  withStage,
  withStageAfter,
} from '../api/outline';
import type { Preview, Run, RunStage, SheetProposal } from '../api/types';
import { useEnvironment } from '../shared/environment';
import { RunCounts, SidePane, Trouble, When } from '../shared/parts';
import { useElsewhere } from '../settings/useElsewhere';
import { useKeys } from '../shared/useKeys';
import { useMe } from '../shared/useMe';
import css from './flow.module.css';
import { LaneStrip, RulePane } from './Lanes';
import { type Addition, Outline } from './Outline';
import { ProofLine } from './ProofLine';
import { type PaneProps, PANES } from './panes';
import { SamplePane, type Suppose } from './SamplePane';
import { useDraft } from './useDraft';
import { withVariable } from './variables';
import { type Samples, useProof } from './useProof';
import { withFix } from './useStageTools';
import { rejectedRecords, VERBS } from './verbs';

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
  const navigate = useNavigate();
  const client = useQueryClient();
  const { modal, message } = App.useApp();
  const environment = useEnvironment();
  const elsewhere = useElsewhere();
  const mayRun = useMe().run.includes(environment);
  const [search, setSearch] = useSearchParams();
  const onSaved = useCallback(
    (saved: Flow) =>
      client.setQueryData(['flow', String(flow.id)], (old: Flow | undefined) =>
        old ? { ...saved, file: old.file } : saved,
      ),
    [client, flow.id],
  );
  const draft = useDraft(flow, onSaved);
  const { file } = draft;
  const lines = useMemo(() => outlineLines(file), [file]);
  const stages = useMemo(() => allStages(file), [file]);
  const stageId = search.get('stage') || stages.find((s) => s.verb === 'Call')?.id || file.stages[0].id;
  const line = lines.find((l) => l.id === stageId && l.kind !== 'way') ?? lines[0];
  const rule = line.kind === 'rule' ? line.rule : undefined;
  // what belongs to no stage of its own is seen at the stage it hangs on
  const stage: Stage =
    line.kind === 'stage' ? line.stage : (line.kind === 'rule' && line.owner) || file.stages[0];
  const place = rule?.id ?? stage.id;
  const number = line.kind === 'stage' ? line.number : '';
  const call = useMemo(() => callBefore(stages, stage), [stages, stage]);
  const calls = stages.filter((s): s is Call => s.verb === 'Call');
  const read = stages.find((s) => s.verb === 'Read');
  const [record, setRecord] = useState(() => Math.max(1, Number(search.get('record')) || 1));
  const [focus, setFocus] = useState<string>();
  const [calling, setCalling] = useState(false);
  const [starting, setStarting] = useState(false);
  const picker = useRef<HTMLInputElement>(null);
  const [samples, setSamples] = useState<Samples>('first');
  const [sheet, setSheet] = useState<SheetProposal[]>();
  const [adding, setAdding] = useState(false);
  const [suppose, setSuppose] = useState<Suppose>({});
  const asked = useSettled({ file, stage: place, record, environment, samples, suppose }, 120);
  const preview = useQuery({
    queryKey: ['preview', flow.id, asked],
    queryFn: ({ signal }) => api.post<Preview>(`/flows/${flow.id}/preview`, asked, signal),
    placeholderData: (before) => before,
    gcTime: 10_000,
  });
  const problems = preview.data?.problems ?? flow.problems;
  const attention = preview.data?.attention ?? [];
  const total = preview.data?.records ?? flow.records;
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

  const blame = search.get('blame');
  useEffect(() => {
    if (!blame) return;
    setFocus(
      fillsOf(stage).find((f) => f.id === blame)?.target ?? (blame.startsWith('/') ? blame : undefined),
    );
    // only when the link is followed, not on every edit
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [blame, stage.id]);

  const choose = (next: string) => {
    setFocus(undefined);
    setSearch({ stage: next }, { replace: true });
  };
  const change = useCallback(
    (next: Stage) => draft.change((f) => withStage(f, next.id, () => next)),
    [draft],
  );
  const onVariable = (name: string) => {
    if (stages.some((s) => 'as' in s && s.as === name) || name === 'run')
      void message.error(`There is a $${name} already; choose another name.`);
    else draft.change((f) => withVariable(f, stage.id, name));
  };
  const fixField = (path: string) => {
    if ('fills' in stage) change({ ...stage, fills: withFix(fillsOf(stage), shown, path) } as Stage);
  };
  /** A refused host is allowed on the spot, by those who may, and what was refused goes on. */
  const offersHost = (e: unknown, goOn: () => Promise<void>) => {
    if (!(e instanceof ApiProblem) || e.code !== 'host-not-allowed') return false;
    modal.confirm({
      title: 'The host is not allowed',
      content: e.message,
      okText: `Allow ${String(e.body.host)} and go on`,
      onOk: async () => {
        try {
          await api.post('/allowed-hosts', { host: e.body.host });
          void goOn();
        } catch (refused) {
          void message.error(refused instanceof Error ? refused.message : String(refused));
        }
      },
    });
    return true;
  };
  const callSample = async (confirmed = false) => {
    if (!call) return;
    setCalling(true);
    try {
      // whatever is missing before it is called too
      await api.post<Preview>(`/flows/${flow.id}/sample-call`, {
        file,
        stage: call.id,
        record,
        environment,
        confirmed,
        samples,
        upTo: true,
      });
      const answer = await api.post<Preview>(`/flows/${flow.id}/preview`, {
        file,
        stage: place,
        record,
        environment,
        samples,
        suppose,
      });
      client.setQueryData(
        ['preview', flow.id, { file, stage: place, record, environment, samples, suppose }],
        answer,
      );
      await client.invalidateQueries({ queryKey: ['preview', flow.id] });
      if (answer.kept?.failure) void message.warning(answer.kept.failure);
      else void message.success('Answered and kept');
    } catch (e) {
      const told = e instanceof ApiProblem ? e : undefined;
      if (told?.code === 'confirm-call') {
        modal.confirm({
          title: `Call in ${environment}?`,
          content: told.message,
          okText: `Call “${String(told.body.endpoint)}” in ${environment}`,
          onOk: () => void callSample(true),
        });
      } else if (
        !offersHost(e, () => callSample(confirmed)) &&
        !elsewhere(e, () => void callSample(confirmed))
      )
        void message.error(e instanceof Error ? e.message : String(e));
    } finally {
      setCalling(false);
    }
  };
  const run = (limit: number) => {
    const go = async (confirmed = false) => {
      setStarting(true);
      try {
        // never an older revision than what is on the screen
        const revision = await draft.settled();
        const started = await api.post<Run>(`/flows/${flow.id}/runs`, {
          environment,
          limit,
          revision,
          confirmed,
        });
        navigate(`/runs/${started.id}`);
      } catch (e) {
        setStarting(false);
        if (e instanceof ApiProblem && e.code === 'confirm-run') {
          modal.confirm({
            title: 'A run of this flow goes on',
            content: e.message,
            okText: 'Start a second run',
            okButtonProps: { danger: true },
            onOk: () => void go(true),
          });
        } else if (!offersHost(e, () => go(confirmed)) && !elsewhere(e, () => void go(confirmed)))
          void message.error(e instanceof Error ? e.message : String(e), 8);
      }
    };
    const count = limit || total;
    const changing = calls.filter((c) => c.delivery.effect === 'changes');
    if (environment === 'Live' || problems.length > 0 || changing.length > 0) {
      modal.confirm({
        title: `Run ${count} in ${environment}?`,
        content: (
          <>
            {changing.map((c) => (
              <p key={c.id}>
                {c.operation} changes data at “{c.endpoint}” in {environment}, up to {count} times.
              </p>
            ))}
            {problems.length > 0 && (
              <p>
                There {problems.length === 1 ? 'is 1 problem' : `are ${problems.length} problems`}: records it
                hits are rejected, not sent.
              </p>
            )}
          </>
        ),
        okText: `Run ${count} in ${environment}`,
        okButtonProps: environment === 'Live' ? { style: LIVE } : {},
        onOk: () => void go(),
      });
    } else void go();
  };
  const add = (what: Addition) => {
    if (what === 'rejected') {
      const made = rejectedRecords(file);
      draft.change((f) => withLane(f, undefined, { rules: [...(f.lane?.rules ?? []), made] }));
      choose(made.stages?.[0].id ?? stage.id);
      return;
    }
    const made = VERBS[what].make?.(file, place);
    if (!made) return;
    // into the rule that is chosen, else behind the stage that is
    draft.change((f) => withStageAfter(f, place, made));
    choose(made.id);
  };
  const removeStage = (id: string) => {
    const at = lines.findIndex((l) => l.id === id);
    draft.change((f) => withoutStage(f, id));
    choose(
      lines
        .slice(0, at)
        .reverse()
        .find((l) => l.kind === 'stage')?.id ?? file.stages[0].id,
    );
  };
  const duplicate = () => {
    if (rule || stage.verb === 'Read') return;
    const copy = duplicated(file, stage);
    draft.change((f) => withStageAfter(f, stage.id, copy));
    choose(copy.id);
  };
  const step = (by: number) => {
    const shownLines = lines.filter((l) => l.kind !== 'way');
    const next = shownLines[shownLines.findIndex((l) => l.id === place) + by];
    if (next) choose(next.id);
  };
  const readSheet = async (chosen: File | undefined) => {
    if (!chosen || !call) return;
    try {
      await draft.settled();
      const body = new FormData();
      body.append('file', chosen);
      body.append('record', String(record));
      body.append('environment', environment);
      body.append('stage', call.id);
      choose(call.id);
      setSheet(await api.form<SheetProposal[]>(`/flows/${flow.id}/mapping-sheet`, body));
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e), 8);
    }
  };
  const menu: Record<string, () => void> = {
    rename: () => rename(),
    bundle: () => window.location.assign(`/api/flows/${flow.id}/bundle?environment=${environment}`),
    csv: () => window.location.assign(`/api/flows/${flow.id}/mapping-sheet?form=csv&stage=${call?.id ?? ''}`),
    xlsx: () =>
      window.location.assign(`/api/flows/${flow.id}/mapping-sheet?form=xlsx&stage=${call?.id ?? ''}`),
    sheet: () => picker.current?.click(),
    remove: () => remove(),
  };
  const rename = () => {
    let typed = file.name;
    modal.confirm({
      title: 'Rename the flow',
      content: (
        <input
          className="ant-input full pad-tight"
          defaultValue={file.name}
          onChange={(e) => {
            typed = e.target.value;
          }}
        />
      ),
      onOk: () => typed.trim() && draft.change((f: FlowFile) => ({ ...f, name: typed.trim() })),
    });
  };
  const remove = () =>
    modal.confirm({
      title: `Remove ${file.name}?`,
      content: 'It leaves the lists. Its runs and their ledgers stay.',
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: async () => {
        await api.remove(`/flows/${flow.id}`);
        await client.invalidateQueries({ queryKey: ['flows'] });
        navigate('/flows');
      },
    });
  useKeys(
    {
      '[': () => setRecord((n) => Math.max(1, n - 1)),
      ']': () => setRecord((n) => Math.min(Math.max(1, total), n + 1)),
      'Ctrl+Enter': () => void callSample(),
      'Ctrl+z': () => void draft.undo(),
      'Ctrl+y': draft.redo,
      'Ctrl+Shift+z': draft.redo,
      r: () => mayRun && run(0),
      a: () => setAdding(true),
      d: duplicate,
      'Alt+ArrowUp': () => !rule && draft.change((f) => moved(f, stage.id, true)),
      'Alt+ArrowDown': () => !rule && draft.change((f) => moved(f, stage.id, false)),
      'Alt+ArrowLeft': () => step(-1),
      'Alt+ArrowRight': () => step(1),
      'Shift+Delete': () => !rule && stage.verb !== 'Read' && removeStage(stage.id),
      ...Object.fromEntries(file.stages.slice(0, 9).map((s, i) => [String(i + 1), () => choose(s.id)])),
    },
    ['Ctrl+Enter'],
  );

  useEffect(() => {
    // lists keep Escape to themselves: it is seen before them, and the keys of the page work again; a fill being typed
    // and what stands over the page leave in their own ways
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

  const counts = useMemo(
    () => (flow.lastRun ? (JSON.parse(flow.lastRun.stages) as Record<string, RunStage>) : {}),
    [flow.lastRun],
  );
  const pane = {
    flowId: flow.id,
    file,
    number,
    call,
    preview: shown,
    record,
    environment,
    focus,
    sheet,
    onSheet: () => setSheet(undefined),
    onFocus: setFocus,
    onFile: (next: FlowFile) => draft.change(() => next),
    onRemove: () => removeStage(stage.id),
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
  const last = flow.lastRun;
  const wrong = Object.values(shown?.fields ?? {}).filter((v) => v.problem).length;
  return (
    <div className={css.page}>
      <div className={css.bar}>
        <h1 className="clip" title={file.name} onDoubleClick={rename}>
          {file.name}
        </h1>
        <span className="chip">revision {draft.revision}</span>
        {attention.length > 0 ? (
          <Popover
            trigger="click"
            placement="bottomLeft"
            content={
              <div className="narrow">
                {attention.slice(0, 14).map((p) => (
                  <div key={`${p.stage} ${p.field} ${p.message}`} className="pad-line">
                    <button
                      type="button"
                      className="linkish"
                      onClick={() => {
                        if (p.stage) choose(p.stage);
                        if (p.field) setTimeout(() => setFocus(p.field ?? undefined), 0);
                      }}
                    >
                      {p.message}
                    </button>
                  </div>
                ))}
              </div>
            }
          >
            <button type="button" className="chip caution">
              {attention.length} {attention.length === 1 ? 'problem' : 'problems'}
            </button>
          </Popover>
        ) : (
          <span className="chip fine">ready</span>
        )}
        <span className="dim clip grow">
          {last && (
            <>
              last run <When at={last.startedAt} /> ·{' '}
              <a onClick={() => navigate(`/runs/${last.id}`)}>
                <RunCounts run={last} />
              </a>
            </>
          )}
        </span>
        <Button onClick={() => run(5)} disabled={total === 0 || !mayRun}>
          Try 5
        </Button>
        <Button
          type="primary"
          style={environment === 'Live' ? LIVE : undefined}
          loading={starting}
          title={mayRun ? undefined : `You may not run in ${environment}`}
          disabled={total === 0 || !mayRun}
          onClick={() => run(0)}
        >
          Run {total} in {environment}
        </Button>
        <Dropdown
          trigger={['click']}
          menu={{
            items: [
              { key: 'rename', label: 'Rename' },
              { key: 'sheet', label: 'Take in a mapping sheet …', disabled: !call?.operation },
              { key: 'csv', label: 'Download the mapping as CSV' },
              { key: 'xlsx', label: 'Download the mapping as XLSX' },
              { key: 'bundle', label: 'Download as a bundle' },
              { key: 'remove', label: 'Remove', danger: true },
            ],
            onClick: ({ key }) => menu[key](),
          }}
        >
          <Button aria-label="more">⋯</Button>
        </Dropdown>
        <input
          ref={picker}
          type="file"
          hidden
          accept=".csv,.xlsx"
          aria-label="Mapping sheet"
          onChange={(e) => {
            void readSheet(e.target.files?.[0]);
            e.target.value = '';
          }}
        />
      </div>
      <div className={css.body}>
        <SidePane name="outline" side="left" start={228} min={150} max={360}>
          <Outline
            file={file}
            chosen={place}
            lastRun={last}
            stages={counts}
            way={shown?.way}
            attention={attention}
            onChoose={choose}
            onAdd={add}
            adding={adding}
            onAdding={setAdding}
          />
        </SidePane>
        {rule ? (
          <RulePane key={rule.id} {...pane} rule={rule} onChoose={choose} />
        ) : (
          <div className={css.stage} key={stage.id}>
            <Pane {...pane} stage={stage} onChange={change} onVariable={onVariable} />
            <LaneStrip file={file} stage={stage} onFile={pane.onFile} onChoose={choose} />
          </div>
        )}
        <SidePane name="sample" side="right" start={290} min={200} max={640}>
          <SamplePane
            preview={shown}
            stage={stage}
            stages={stages}
            call={call}
            record={record}
            variable={read?.as ?? 'record'}
            calling={calling}
            suppose={suppose}
            onSuppose={setSuppose}
            onRecord={setRecord}
            onCall={() => void callSample()}
            onFix={fixField}
            onField={setFocus}
            onChoose={choose}
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
            <button type="button" className="linkish dim" onClick={() => void callSample()}>
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
      <Modal
        open={draft.saving === 'conflict'}
        title="Someone else saved first"
        closable={false}
        footer={[
          <Button key="theirs" onClick={() => window.location.reload()}>
            Take theirs, drop mine
          </Button>,
          <Button key="mine" type="primary" onClick={draft.overwrite}>
            Save mine as the next revision
          </Button>,
        ]}
      >
        <p>{draft.problem?.message}</p>
        <div className="row at-top">
          {(['theirs', 'yours'] as const).map((side) => (
            <div key={side} className="grow">
              <b>{side}</b>
              <pre className="xml short-list">{JSON.stringify(draft.problem?.body[side], null, 1)}</pre>
            </div>
          ))}
        </div>
      </Modal>
    </div>
  );
}

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

/** Live is told apart by ink, not by red: red is for failures. */
const LIVE = { background: '#22272a', borderColor: '#22272a' };

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
