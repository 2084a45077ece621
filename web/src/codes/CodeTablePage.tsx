import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Input, Modal, Select, Skeleton, Table, Upload } from 'antd';
import { useEffect, useState } from 'react';
import { Link, useParams } from 'react-router';
import { api } from '../api/client';
import type { CodeTable, Dataset, Page } from '../api/types';
import { Trouble } from '../shared/parts';

type Entry = Required<CodeTable>['entries'][number] & { row?: number };

/** One code table: its codes in a grid that is typed into, loaded from a file or a dataset, and saved as a whole. */
export function CodeTablePage() {
  const { id } = useParams();
  const client = useQueryClient();
  const { message } = App.useApp();
  const table = useQuery({
    queryKey: ['code-table', id],
    queryFn: () => api.get<CodeTable>(`/code-tables/${id}`),
    gcTime: 0,
  });
  const [entries, setEntries] = useState<Entry[]>([]);
  const [otherwise, setOtherwise] = useState('');
  const [find, setFind] = useState('');
  const [error, setError] = useState<unknown>();
  const [loading, setLoading] = useState(false);
  const [dataset, setDataset] = useState(false);
  useEffect(() => {
    if (!table.data) return;
    setEntries(table.data.entries);
    setOtherwise(table.data.otherwise ?? '');
  }, [table.data]);
  if (!table.data)
    return <div className="page">{table.error ? <Trouble error={table.error} /> : <Skeleton active />}</div>;
  const changed =
    JSON.stringify([entries, otherwise]) !== JSON.stringify([table.data.entries, table.data.otherwise ?? '']);
  const save = async () => {
    setError(undefined);
    try {
      const kept = entries.filter((e) => e.code?.trim() || e.value?.trim());
      const saved = await api.put<CodeTable>(
        `/code-tables/${id}`,
        { otherwise: otherwise || undefined, entries: kept },
        { 'If-Match': `"${table.data.version}"` },
      );
      client.setQueryData(['code-table', id], saved);
      await client.invalidateQueries({ queryKey: ['code-tables'] });
      void message.success('Saved; flows use it from their next record on');
    } catch (e) {
      setError(e);
    }
  };
  const load = async (work: Promise<Entry[]>) => {
    setLoading(true);
    setError(undefined);
    try {
      const read = await work;
      const codes = new Set(read.map((e) => `${e.code} ${e.from ?? ''}`));
      setEntries([...entries.filter((e) => !codes.has(`${e.code} ${e.from ?? ''}`)), ...read]);
      void message.info(`${read.length} codes read; look at them and save`);
    } catch (e) {
      setError(e);
    } finally {
      setLoading(false);
    }
  };
  const set = (row: number, part: Partial<Entry>) =>
    setEntries(entries.map((e, i) => (i === row ? { ...e, ...part } : e)));
  const cell =
    (name: 'code' | 'value' | 'from' | 'until', placeholder = '') =>
    (_: unknown, e: Entry) => (
      <Input
        size="small"
        variant="borderless"
        className={name === 'code' || name === 'value' ? 'mono' : ''}
        aria-label={`${name} ${Number(e.row) + 1}`}
        placeholder={placeholder}
        value={e[name] ?? ''}
        onChange={(event) => set(Number(e.row), { [name]: event.target.value || undefined })}
      />
    );
  const rows = entries
    .map((e, row) => ({ ...e, row }))
    .filter((e) => !find || `${e.code} ${e.value}`.toLowerCase().includes(find.toLowerCase()));
  return (
    <div className="page page-width">
      <div className="page-head">
        <Link to="/settings?tab=codes">Code tables</Link>
        <h1>{table.data.name}</h1>
        <span className="chip">version {table.data.version}</span>
        <span className="grow" />
        <Upload
          showUploadList={false}
          accept=".csv,.txt,.xlsx"
          beforeUpload={(file) => {
            void load(api.upload<Entry[]>('/code-tables/entries/file', 'file', [file]));
            return false;
          }}
        >
          <Button loading={loading}>Load a file</Button>
        </Upload>
        <Button onClick={() => setDataset(true)}>Load a dataset</Button>
        <Button type="primary" disabled={!changed} onClick={() => void save()}>
          Save
        </Button>
      </div>
      <Trouble error={error} />
      <div className="row gap-below">
        <span className="dim">A code without an entry</span>
        <Select
          size="small"
          className="field-xl"
          aria-label="Without an entry"
          value={otherwise ? 'becomes' : 'rejects'}
          onChange={(v) => setOtherwise(v === 'becomes' ? 'other' : '')}
          options={[
            { value: 'rejects', label: 'rejects the record' },
            { value: 'becomes', label: 'becomes' },
          ]}
        />
        {otherwise && (
          <Input
            size="small"
            className="mono field-l"
            aria-label="Otherwise"
            value={otherwise}
            onChange={(e) => setOtherwise(e.target.value)}
          />
        )}
        <span className="grow" />
        <Input.Search
          allowClear
          size="small"
          className="field-xl"
          placeholder="Find a code"
          onChange={(e) => setFind(e.target.value)}
        />
      </div>
      <Table<Entry>
        size="small"
        rowKey="row"
        dataSource={rows}
        pagination={{ pageSize: 50, hideOnSinglePage: true, showSizeChanger: false }}
        locale={{ emptyText: find ? 'No code fits.' : 'No codes yet: add one below, or load them.' }}
        columns={[
          {
            title: 'Code',
            sorter: (a, b) => String(a.code).localeCompare(String(b.code)),
            render: cell('code', 'what is looked up'),
          },
          {
            title: 'Becomes',
            sorter: (a, b) => String(a.value).localeCompare(String(b.value)),
            render: cell('value', 'what it becomes'),
          },
          { title: 'From', width: 130, render: cell('from', 'always') },
          { title: 'Until', width: 130, render: cell('until', 'for ever') },
          {
            width: 80,
            render: (_, e) => (
              <Button
                size="small"
                type="text"
                onClick={() => setEntries(entries.filter((__, i) => i !== e.row))}
              >
                Remove
              </Button>
            ),
          },
        ]}
      />
      <Button
        size="small"
        className="gap-above"
        onClick={() => setEntries([...entries, { code: '', value: '' }])}
      >
        Add a code
      </Button>
      {dataset && (
        <FromDataset
          onClose={() => setDataset(false)}
          onLoad={(given) => {
            setDataset(false);
            void load(api.post<Entry[]>('/code-tables/entries/dataset', given));
          }}
        />
      )}
    </div>
  );
}

function FromDataset({
  onClose,
  onLoad,
}: {
  onClose: () => void;
  onLoad: (given: Record<string, string | undefined>) => void;
}) {
  const list = useQuery({
    queryKey: ['datasets', 'choices'],
    queryFn: () => api.get<Page<Dataset>>('/datasets?size=500'),
  });
  const [given, setGiven] = useState<Record<string, string | undefined>>({});
  const chosen = list.data?.items.find((d) => d.name === given.dataset);
  const column = (name: string, label: string) => (
    <label className="row" key={name}>
      <span className="field-s">{label}</span>
      <Select
        allowClear
        size="small"
        aria-label={label}
        className="field-2xl"
        value={given[name]}
        onChange={(v?: string) => setGiven({ ...given, [name]: v })}
        options={(chosen?.columns ?? []).map((c) => ({ value: c.name }))}
      />
    </label>
  );
  return (
    <Modal
      open
      title="Load codes from a dataset"
      okText="Read them"
      onCancel={onClose}
      okButtonProps={{ disabled: !given.dataset || !given.code || !given.value }}
      onOk={() => onLoad(given)}
    >
      <div className="stack loose">
        <label className="row">
          <span className="field-s">Dataset</span>
          <Select
            showSearch
            size="small"
            aria-label="Dataset"
            className="field-2xl"
            value={given.dataset}
            onChange={(d) => setGiven({ dataset: d })}
            options={(list.data?.items ?? []).filter((d) => d.hasData).map((d) => ({ value: d.name }))}
          />
        </label>
        {column('code', 'Code')}
        {column('value', 'Becomes')}
        {column('from', 'From')}
        {column('until', 'Until')}
      </div>
    </Modal>
  );
}
