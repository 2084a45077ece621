import { useQueryClient } from '@tanstack/react-query';
import { Button, Form, Input, Modal, Segmented, Table, Upload } from 'antd';
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { api } from '../api/client';
import type { Dataset } from '../api/types';
import { BrokerPick } from '../settings/BrokerPick';
import { Find, opening, usePaged } from '../shared/paged';
import { Nothing, Trouble, When } from '../shared/parts';

export function DatasetList() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const [asked, setAsked] = useSearchParams();
  const [adding, setAdding] = useState<Kind | undefined>(
    asked.get('add') === 'folder' ? 'folder' : undefined,
  );
  const [error, setError] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const datasets = usePaged<Dataset>('datasets');
  const upload = async (file: File) => {
    setError(undefined);
    setBusy(true);
    try {
      const made = await api.upload<Dataset>('/datasets/files', 'file', [file]);
      await client.invalidateQueries({ queryKey: ['datasets'] });
      navigate(`/datasets/${made.id}`);
    } catch (e) {
      setError(e);
    } finally {
      setBusy(false);
    }
  };
  const buttons = (
    <>
      <Upload
        showUploadList={false}
        accept=".csv,.txt,.tsv"
        beforeUpload={(file) => {
          void upload(file);
          return false;
        }}
      >
        <Button type="primary" loading={busy}>
          Add a CSV file
        </Button>
      </Upload>
      <Button onClick={() => setAdding('table')}>Add a table, query, target, folder or queue</Button>
    </>
  );
  return (
    <div className="page">
      <div className="page-head">
        <h1>Datasets</h1>
        <Find placeholder="Find a dataset" onFind={datasets.find} />
        <span className="grow" />
        {buttons}
      </div>
      <Trouble error={error ?? datasets.list.error} retry={() => void datasets.list.refetch()} />
      {datasets.none ? (
        <Nothing title="No datasets yet" action={<div className="row middle">{buttons}</div>}>
          A dataset is a named place that records are read from or written to. Add a CSV file, and its
          delimiter, charset, names and types are detected.
        </Nothing>
      ) : (
        <Table<Dataset>
          {...datasets.table}
          onRow={opening((row) => navigate(`/datasets/${row.id}`))}
          columns={[
            {
              title: 'Name',
              dataIndex: 'name',
              sorter: (a, b) => a.name.localeCompare(b.name),
              render: (name: string, row) => <a onClick={() => navigate(`/datasets/${row.id}`)}>{name}</a>,
            },
            {
              title: 'Kind',
              dataIndex: 'kind',
              width: 100,
              render: (kind: string, row) =>
                kind === 'csv'
                  ? 'CSV file'
                  : kind === 'table'
                    ? `table ${row.table}`
                    : row.queue
                      ? `queue ${row.queue.name}`
                      : kind === 'query' || kind === 'folder'
                        ? kind
                        : `${kind.toUpperCase()} documents`,
            },
            {
              title: 'Rows',
              dataIndex: 'rows',
              align: 'right',
              width: 120,
              sorter: (a, b) => a.rows - b.rows,
              render: (n: number, row) =>
                row.hasData ? (
                  n
                ) : (
                  <span className="faint nowrap">{row.queue ? 'only sent' : 'not written yet'}</span>
                ),
            },
            { title: 'Fields', align: 'right', width: 80, render: (_, row) => row.columns.length || '–' },
            {
              title: 'Findings',
              align: 'right',
              width: 100,
              dataIndex: 'findingCount',
              render: (n: number) => n || <span className="faint">none</span>,
            },
            { title: 'Added', dataIndex: 'createdAt', width: 150, render: (at: string) => <When at={at} /> },
          ]}
        />
      )}
      {adding && (
        <NewDataset
          kind={adding}
          onClose={() => {
            setAdding(undefined);
            setAsked({}, { replace: true });
          }}
          onDone={(id) => navigate(`/datasets/${id}`)}
        />
      )}
    </div>
  );
}

type Kind = 'table' | 'query' | 'csv' | 'json' | 'xml' | 'folder' | 'queue';

type Queue = Partial<NonNullable<Dataset['queue']>>;

/** The queue to which a flow sends messages. */
function QueueFields({
  queue,
  onQueue,
  name,
  onName,
}: {
  queue: Queue;
  onQueue: (queue: Queue) => void;
  name: string;
  onName: (name: string) => void;
}) {
  return (
    <>
      <Form.Item
        label="Broker"
        extra="An endpoint whose address is as in amqp://broker.example:5672 (AMQP 1.0)."
      >
        <BrokerPick value={queue.endpoint} onChange={(endpoint) => onQueue({ ...queue, endpoint })} />
      </Form.Item>
      <Form.Item label="Queue">
        <Input
          className="mono"
          aria-label="Queue"
          value={name}
          onChange={(e) => onName(e.target.value)}
          placeholder="loans.booked"
        />
      </Form.Item>
      <Form.Item label="Messages are">
        <Segmented<'json' | 'xml'>
          value={queue.form ?? 'json'}
          options={[
            { value: 'json', label: 'JSON' },
            { value: 'xml', label: 'XML' },
          ]}
          onChange={(form) => onQueue({ ...queue, form })}
        />
      </Form.Item>
    </>
  );
}

/** Adds a table, a query, or a file that a flow will write. */
export function NewDataset({
  onClose,
  onDone,
  kind: first = 'table',
}: {
  onClose: () => void;
  onDone: (id: number, name: string) => void;
  kind?: Kind;
}) {
  const client = useQueryClient();
  const [kind, setKind] = useState<Kind>(first);
  const [name, setName] = useState('');
  const [text, setText] = useState('');
  const [queue, setQueue] = useState<Queue>({ form: 'json' });
  const [error, setError] = useState<unknown>();
  const save = async () => {
    try {
      const made = await api.post<Dataset>('/datasets', {
        name: name || text,
        kind,
        table: kind === 'table' ? text : undefined,
        query: kind === 'query' ? text : undefined,
        queue: kind === 'queue' ? { ...queue, name: text } : undefined,
      });
      await client.invalidateQueries({ queryKey: ['datasets'] });
      onDone(made.id, made.name);
    } catch (e) {
      setError(e);
    }
  };
  return (
    <Modal
      open
      width={620}
      title="Add a dataset"
      onCancel={onClose}
      okText="Add"
      onOk={() => void save()}
      okButtonProps={{
        disabled: ['table', 'query', 'queue'].includes(kind) ? !text.trim() : !name.trim(),
      }}
    >
      <Form layout="vertical">
        <Form.Item>
          <Segmented<Kind>
            value={kind}
            onChange={setKind}
            options={[
              { value: 'table', label: 'Table' },
              { value: 'query', label: 'Query' },
              { value: 'csv', label: 'CSV to write' },
              { value: 'json', label: 'JSON to write' },
              { value: 'xml', label: 'XML to write' },
              { value: 'folder', label: 'Folder' },
              { value: 'queue', label: 'Queue' },
            ]}
          />
        </Form.Item>
        {kind === 'table' && (
          <Form.Item
            label="Table"
            extra="In the datasets' own database; a missing table is created by the first run that writes to it."
          >
            <Input
              className="mono"
              value={text}
              onChange={(e) => setText(e.target.value)}
              placeholder="schema.table"
            />
          </Form.Item>
        )}
        {kind === 'query' && (
          <Form.Item label="Query">
            <Input.TextArea
              className="mono"
              rows={5}
              value={text}
              onChange={(e) => setText(e.target.value)}
              placeholder="select …"
            />
          </Form.Item>
        )}
        {kind === 'queue' && <QueueFields queue={queue} onQueue={setQueue} name={text} onName={setText} />}
        {kind === 'folder' && (
          <p className="dim flush-top">
            Holds files of any kind: photographs, labels, papers. Flows read one record a file, send files as
            attachments, and write the attachments of replies to it.
          </p>
        )}
        <Form.Item label="Name">
          <Input
            value={name}
            onChange={(e) => setName(e.target.value)}
            placeholder={kind === 'table' || kind === 'queue' ? text : ''}
          />
        </Form.Item>
      </Form>
      <Trouble error={error} />
    </Modal>
  );
}
