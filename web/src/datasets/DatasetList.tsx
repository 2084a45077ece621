import { useQueryClient } from '@tanstack/react-query';
import { Button, Form, Input, Modal, Segmented, Table, Upload } from 'antd';
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { api } from '../api/client';
import type { Dataset } from '../api/types';
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
      <Button onClick={() => setAdding('table')}>Add a table, query, target or folder</Button>
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
                row.hasData ? n : <span className="faint nowrap">not written yet</span>,
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

type Kind = 'table' | 'query' | 'csv' | 'json' | 'xml' | 'folder';

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
  const [error, setError] = useState<unknown>();
  const save = async () => {
    try {
      const made = await api.post<Dataset>('/datasets', {
        name: name || text,
        kind,
        table: kind === 'table' ? text : undefined,
        query: kind === 'query' ? text : undefined,
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
      okButtonProps={{ disabled: kind === 'table' || kind === 'query' ? !text.trim() : !name.trim() }}
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
            placeholder={kind === 'table' ? text : ''}
          />
        </Form.Item>
      </Form>
      <Trouble error={error} />
    </Modal>
  );
}
