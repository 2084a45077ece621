import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Checkbox, Input, Modal, Select, Skeleton, Table } from 'antd';
import { useRef, useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { api, query } from '../api/client';
import type { Cause, Correction, CorrectionsDone, Page, RunState } from '../api/types';
import { Find } from '../shared/paged';
import { Nothing, Trouble } from '../shared/parts';
import { CorrectCell } from './CorrectCell';
import css from './correct.module.css';
import { useResend } from './useResend';
import { useSettle } from './useSettle';

const SIZE = 50;

/** Records of a run that are not done, as a grid of what came in: corrected, discarded, sent again. */
export function CorrectPage() {
  const { id } = useParams();
  const state = useQuery({ queryKey: ['run', id], queryFn: () => api.get<RunState>(`/runs/${id}`) });
  if (!state.data)
    return (
      <div className="page">
        <Trouble error={state.error} retry={() => void state.refetch()} />
        <Skeleton active />
      </div>
    );
  return <Grid state={state.data} />;
}

function Grid({ state }: { state: RunState }) {
  const { run, open } = state;
  const client = useQueryClient();
  const { message } = App.useApp();
  const [search, setSearch] = useSearchParams();
  const cause = search.get('cause') ?? undefined;
  const [inForce, setInForce] = useState(false);
  const [text, setText] = useState('');
  const [page, setPage] = useState(1);
  const [chosen, setChosen] = useState<number[]>([]);
  const [replacing, setReplacing] = useState(false);
  const picker = useRef<HTMLInputElement>(null);
  const causes = useQuery({
    queryKey: ['causes', String(run.id)],
    queryFn: () => api.get<Cause[]>(`/runs/${run.id}/causes`),
  });
  const list = useQuery({
    queryKey: ['corrections', run.id, cause, text, page, inForce],
    queryFn: () =>
      api.get<Page<Correction>>(
        `/runs/${run.id}/corrections${query({ cause, q: text, page, size: SIZE, checked: true, inForce })}`,
      ),
    placeholderData: (b) => b,
  });
  const again = () => {
    setChosen([]);
    void client.invalidateQueries({ queryKey: ['corrections', run.id] });
    void client.invalidateQueries({ queryKey: ['run', String(run.id)] });
  };
  const resend = useResend(run);
  const settle = useSettle(run, again);
  const items = list.data?.items ?? [];
  const fields = [...new Set(items.flatMap((c) => Object.keys(c.fields)))];
  const some = chosen.length > 0 ? { ordinals: chosen } : { cause };
  const count = chosen.length > 0 ? chosen.length : (list.data?.total ?? open);
  const upload = async (file: File | undefined) => {
    if (!file) return;
    try {
      const form = new FormData();
      form.append('file', file);
      const done = await api.form<CorrectionsDone>(`/runs/${run.id}/corrections/file`, form);
      void message.info(
        `${done.changed} records changed` +
          (done.missing > 0 ? `, ${done.missing} that wait were not in the file` : '') +
          (done.unknown.length > 0 ? `; passed over: ${done.unknown.slice(0, 3).join(', ')}` : ''),
        8,
      );
      again();
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e), 8);
    }
  };
  return (
    <div className="page">
      <div className="page-head">
        <h1>Correct</h1>
        <span className="grow clip">
          <Link to={`/runs/${run.id}`}>Run {run.id}</Link> of {run.flowName}{' '}
          <span className="dim">in {run.environment}</span>
        </span>
        <Button onClick={() => picker.current?.click()}>Take from a file …</Button>
        <Button onClick={() => setReplacing(true)} disabled={items.length === 0}>
          Replace in many …
        </Button>
        <Button danger disabled={count === 0} onClick={() => settle('discarded', count, some)}>
          Discard {count}
        </Button>
        <Button type="primary" disabled={count === 0} onClick={() => void resend(count, some)}>
          Send {count} again
        </Button>
      </div>
      <div className="row gap-below">
        <Select
          aria-label="Cause"
          className="field-4xl"
          allowClear
          placeholder="all causes"
          value={cause}
          onChange={(c?: string) => {
            setSearch(c ? { cause: c } : {}, { replace: true });
            setPage(1);
            setChosen([]);
          }}
          options={causes.data
            ?.filter((c) => c.ended === 'rejected')
            .map((c) => ({ value: c.cause, label: `${c.count} × ${c.cause}` }))}
        />
        <Checkbox checked={inForce} onChange={(e) => setInForce(e.target.checked)}>
          judged by the revision in force
        </Checkbox>
        <span className="grow" />
        <Find
          placeholder="Key, number or text"
          onFind={(t) => {
            setText(t);
            setPage(1);
          }}
        />
      </div>
      <Trouble error={list.error} />
      {list.data?.total === 0 && !text && !cause ? (
        <Nothing title="Nothing waits to be corrected">
          Every rejected or held-back record of this run was sent again or discarded.
        </Nothing>
      ) : (
        <Table<Correction>
          size="small"
          rowKey="ordinal"
          className={css.grid}
          loading={list.isPending}
          dataSource={items}
          scroll={{ x: 'max-content' }}
          rowSelection={{ selectedRowKeys: chosen, onChange: (keys) => setChosen(keys.map(Number)) }}
          pagination={{
            current: page,
            pageSize: SIZE,
            total: list.data?.total,
            onChange: setPage,
            showSizeChanger: false,
            hideOnSinglePage: true,
          }}
          columns={[
            {
              title: 'Record',
              width: 110,
              fixed: 'left',
              render: (_, c) => (
                <Link to={`/runs/${run.id}?record=${c.ordinal}`} title={c.message}>
                  {c.key ?? c.ordinal}
                </Link>
              ),
            },
            {
              title: 'Now',
              width: 230,
              fixed: 'left',
              render: (_, c) => <Verdict of={c} />,
            },
            ...fields.map((field) => ({
              title: field,
              key: field,
              render: (_: unknown, c: Correction) =>
                field in c.fields ? (
                  <CorrectCell
                    key={`${c.version} ${c.edits[field] ?? ''}`}
                    run={run.id}
                    correction={c}
                    field={field}
                    inForce={inForce}
                    onKept={again}
                  />
                ) : null,
            })),
          ]}
        />
      )}
      {replacing && (
        <ReplaceForm
          run={run.id}
          cause={cause}
          fields={fields}
          onClose={() => setReplacing(false)}
          onDone={(changed) => {
            setReplacing(false);
            void message.info(`${changed} records changed`);
            again();
          }}
        />
      )}
      <input
        ref={picker}
        type="file"
        hidden
        accept=".csv"
        aria-label="Corrected file"
        onChange={(e) => {
          void upload(e.target.files?.[0]);
          e.target.value = '';
        }}
      />
    </div>
  );
}

function Verdict({ of }: { of: Correction }) {
  const v = of.verdict;
  if (of.ended === 'held-back') return <span className="dim">held back behind its key</span>;
  if (v?.state === 'fine')
    return (
      <>
        <span className="chip fine">valid</span>
        {Object.keys(of.edits).length === 0 && <div className="dim small clip">was: {of.cause}</div>}
      </>
    );
  if (v?.state === 'wrong') return <span className="bad small">{v.message}</span>;
  return <span className="dim small">{of.message}</span>;
}

function ReplaceForm({
  run,
  cause,
  fields,
  onClose,
  onDone,
}: {
  run: number;
  cause?: string;
  fields: string[];
  onClose: () => void;
  onDone: (changed: number) => void;
}) {
  const [field, setField] = useState(fields[0] ?? '');
  const [find, setFind] = useState('');
  const [replace, setReplace] = useState('');
  const [error, setError] = useState<unknown>();
  const save = async () => {
    setError(undefined);
    try {
      const done = await api.post<CorrectionsDone>(`/runs/${run}/corrections/replacement`, {
        cause,
        field,
        find,
        replace,
      });
      onDone(done.changed);
    } catch (e) {
      setError(e);
    }
  };
  return (
    <Modal open title="Replace in many records" okText="Replace" onOk={() => void save()} onCancel={onClose}>
      <div className="stack loose">
        <p className="dim">
          {cause ? `In all records that failed for “${cause}”.` : 'In all records that wait.'}
        </p>
        <Select
          showSearch
          aria-label="Field"
          value={field}
          onChange={setField}
          options={fields.map((f) => ({ value: f, label: f }))}
        />
        <Input
          aria-label="Find"
          placeholder="the text that is replaced; nothing for the whole field"
          value={find}
          onChange={(e) => setFind(e.target.value)}
        />
        <Input
          aria-label="Replace by"
          placeholder="what takes its place"
          value={replace}
          onChange={(e) => setReplace(e.target.value)}
        />
        <Trouble error={error} />
      </div>
    </Modal>
  );
}
