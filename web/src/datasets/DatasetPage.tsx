import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Input, Select, Skeleton, Switch, Table, Tooltip } from 'antd';
import { useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { api, query } from '../api/client';
import type { Dataset, Page } from '../api/types';
import { formatLabel, type Column, type ValueFormat } from '../api/flow';
import { Nothing, Trouble } from '../shared/parts';
import { FolderFiles } from './FolderFiles';

const TYPES = ['string', 'integer', 'decimal', 'boolean', 'date', 'datetime', 'time'].map((t) => ({
  value: t,
}));
const DELIMITERS = [
  [',', 'comma ,'],
  [';', 'semicolon ;'],
  ['\t', 'tab'],
  ['|', 'bar |'],
].map(([value, label]) => ({ value, label }));
const CHARSETS = ['UTF-8', 'windows-1252', 'ISO-8859-1', 'ISO-8859-15', 'UTF-16LE', 'UTF-16BE'].map(
  (value) => ({ value }),
);

/** A grid of real rows with the layout above it: names, types, formats, problems. */
export function DatasetPage() {
  const { id } = useParams();
  const client = useQueryClient();
  const navigate = useNavigate();
  const { modal } = App.useApp();
  const [text, setText] = useState('');
  const [page, setPage] = useState(1);
  const [error, setError] = useState<unknown>();
  const [findings, setFindings] = useState(false);
  const dataset = useQuery({ queryKey: ['dataset', id], queryFn: () => api.get<Dataset>(`/datasets/${id}`) });
  const rows = useQuery({
    queryKey: ['rows', id, text, page, dataset.dataUpdatedAt],
    queryFn: () => api.get<Page<string[]>>(`/datasets/${id}/rows${query({ q: text, page, size: 50 })}`),
    enabled: !!dataset.data?.hasData && dataset.data.columns.length > 0,
    placeholderData: (before) => before,
  });
  if (dataset.isPending)
    return (
      <div className="page">
        <Skeleton active />
      </div>
    );
  if (!dataset.data)
    return (
      <div className="page">
        <Trouble error={dataset.error} retry={() => void dataset.refetch()} />
      </div>
    );
  const data = dataset.data;
  const change = async (body: object) => {
    setError(undefined);
    try {
      client.setQueryData(['dataset', id], await api.put<Dataset>(`/datasets/${id}`, body));
    } catch (e) {
      setError(e);
    }
  };
  const csv = data.csv;
  const columns = data.columns as Column[];
  const retype = (name: string, part: Partial<Column>) =>
    change({ columns: columns.map((c) => (c.name === name ? { ...c, ...part } : c)) });
  const remove = () =>
    modal.confirm({
      title: `Remove ${data.name}?`,
      content: ['table', 'query', 'queue'].includes(data.kind)
        ? `The ${data.kind === 'queue' ? 'queue' : 'table'} itself stays.`
        : data.kind === 'folder'
          ? `Its ${data.rows} files are removed too.`
          : 'Its file is removed too.',
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: async () => {
        await api.remove(`/datasets/${id}`);
        await client.invalidateQueries({ queryKey: ['datasets'] });
        navigate('/datasets');
      },
    });
  return (
    <div className="page">
      <div className="page-head">
        <h1>{data.name}</h1>
        <span className="dim">
          {data.queue ? (
            <>
              {data.queue.form?.toUpperCase()} messages to the queue {data.queue.name} at{' '}
              {data.queue.endpoint}
            </>
          ) : (
            <>
              {data.kind === 'csv' ? 'CSV file' : data.kind} · {data.rows}{' '}
              {data.kind === 'folder' ? 'files' : 'rows'} · {columns.length} fields
            </>
          )}
        </span>
        {data.findingCount > 0 && (
          <button type="button" className="chip caution" onClick={() => setFindings(!findings)}>
            {data.findingCount} findings
          </button>
        )}
        <span className="grow" />
        <Button type="text" danger onClick={remove}>
          Remove
        </Button>
        {!['csv', 'folder', 'queue'].includes(data.kind) && (
          <Button
            onClick={() =>
              void api
                .post<Dataset>(`/datasets/${id}/look`)
                .then((d) => client.setQueryData(['dataset', id], d))
                .catch(setError)
            }
          >
            Look again
          </Button>
        )}
        {columns.length > 0 && (
          <Button
            type="primary"
            onClick={() => navigate(`/flows?new=1&dataset=${encodeURIComponent(data.name)}`)}
          >
            Build a flow
          </Button>
        )}
      </div>
      <Trouble error={error ?? rows.error} />
      {csv && data.hasData && (
        <div className="row gap-below wraps">
          <span className="dim">Read with</span>
          <Select
            size="small"
            aria-label="Delimiter"
            className="field-m"
            value={csv.delimiter}
            options={DELIMITERS}
            onChange={(delimiter) => void change({ csv: { ...csv, delimiter } })}
          />
          <span className="dim">quote</span>
          <Select
            size="small"
            aria-label="Quote"
            className="field-xs"
            value={csv.quote}
            options={[{ value: '"' }, { value: "'" }]}
            onChange={(quote) => void change({ csv: { ...csv, quote } })}
          />
          <span className="dim">charset</span>
          <Select
            size="small"
            aria-label="Charset"
            className="field-m"
            value={csv.charset}
            options={CHARSETS}
            onChange={(charset) => void change({ csv: { ...csv, charset } })}
          />
          <label className="row dim">
            <Switch
              size="small"
              checked={csv.header}
              onChange={(header) => void change({ csv: { ...csv, header } })}
            />{' '}
            first line holds names
          </label>
          <span className="grow" />
          <Input.Search
            size="small"
            allowClear
            placeholder="Find in the rows"
            className="field-2xl"
            onChange={(e) => {
              setText(e.target.value);
              setPage(1);
            }}
          />
        </div>
      )}
      {findings && (
        <Table
          size="small"
          className="gap-below"
          rowKey={(f) => `${f.line} ${f.message}`}
          dataSource={data.findings}
          pagination={{ pageSize: 8, hideOnSinglePage: true }}
          columns={[
            { title: 'Line', dataIndex: 'line', width: 80, align: 'right' },
            { title: 'What', dataIndex: 'message' },
          ]}
        />
      )}
      {data.kind === 'folder' ? (
        <FolderFiles dataset={data} onChanged={() => void dataset.refetch()} />
      ) : !data.hasData || columns.length === 0 ? (
        <Nothing
          title={data.queue ? 'Messages are sent, not kept here' : 'Nothing written yet'}
          action={
            <Button type="primary" onClick={() => navigate('/flows')}>
              Go to the flows
            </Button>
          }
        >
          {data.queue
            ? 'A flow that writes to this dataset sends a message for each document; what became of each is in the run.'
            : 'A flow that writes to this dataset fills it.'}
        </Nothing>
      ) : (
        <Table<string[]>
          size="small"
          bordered
          rowKey={(_, i) => String(i)}
          loading={rows.isPending}
          dataSource={rows.data?.items}
          scroll={{ x: 'max-content', y: 'calc(100vh - 285px)' }}
          pagination={{
            current: page,
            pageSize: 50,
            total: rows.data?.total,
            onChange: setPage,
            showSizeChanger: false,
            size: 'small',
          }}
          columns={[
            {
              title: '',
              width: 48,
              fixed: 'left',
              align: 'right',
              render: (_, __, i) => <span className="faint">{(page - 1) * 50 + i + 1}</span>,
            },
            ...columns.map((column, index) => ({
              key: column.name,
              width: 150,
              ellipsis: true,
              align:
                column.type === 'integer' || column.type === 'decimal'
                  ? ('right' as const)
                  : ('left' as const),
              title: (
                <ColumnHead
                  column={column}
                  onType={(type) => void retype(column.name, { type, format: undefined })}
                  onFormat={(format) => void retype(column.name, { format })}
                />
              ),
              render: (_: unknown, row: string[]) =>
                row[index] === '' ? <span className="faint">empty</span> : row[index],
            })),
          ]}
        />
      )}
    </div>
  );
}

function ColumnHead({
  column,
  onType,
  onFormat,
}: {
  column: Column;
  onType: (t: Column['type']) => void;
  onFormat: (f: ValueFormat | undefined) => void;
}) {
  return (
    <div className="regular left">
      <Tooltip title={column.label === column.name ? undefined : `called “${column.label}” in the source`}>
        <b>{column.name}</b>
      </Tooltip>
      {column.required && (
        <span className="faint" title="never empty in any row">
          {' '}
          •
        </span>
      )}
      <div className="row tight">
        <Select
          size="small"
          variant="borderless"
          aria-label={`Type of ${column.name}`}
          className="field-s joined"
          value={column.type}
          options={TYPES}
          onChange={(t) => onType(t as Column['type'])}
        />
        {column.format && (
          <button
            type="button"
            className="linkish faint mono clip small"
            title="forget the format"
            onClick={() => onFormat(undefined)}
          >
            {formatLabel(column.format)}
          </button>
        )}
      </div>
    </div>
  );
}
