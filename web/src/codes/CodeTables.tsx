import { useQueryClient } from '@tanstack/react-query';
import { Input, Modal } from 'antd';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api } from '../api/client';
import type { CodeTable, CodeTableSummary } from '../api/types';
import { NamedList } from '../shared/NamedList';

const SAYS = {
  of: 'code-tables',
  one: 'a code table',
  intro:
    'A code table says what a code of one side is on the other. Fills look values up in it;' +
    ' all flows share the tables.',
  none: 'No code tables yet',
  whereFrom: 'Type one in, or load it from a CSV or XLSX file, or from a dataset.',
  removing: 'Fills that use it reject their records until another table is picked.',
};

/** Code tables: what codes of one side are called on the other, kept once for all flows. */
export function CodeTables() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState<string>();
  const [error, setError] = useState<unknown>();
  const create = async () => {
    try {
      const made = await api.post<CodeTable>('/code-tables', { name, entries: [] });
      await client.invalidateQueries({ queryKey: ['code-tables'] });
      navigate(`/code-tables/${made.id}`);
    } catch (e) {
      setError(e);
      setName(undefined);
    }
  };
  return (
    <>
      <NamedList<CodeTableSummary>
        says={SAYS}
        error={error}
        onAdd={() => setName('')}
        name={(row) => <Link to={`/code-tables/${row.id}`}>{row.name}</Link>}
        columns={[{ title: 'Codes', dataIndex: 'codes', align: 'right', width: 90 }]}
      />
      <Modal
        open={name !== undefined}
        title="Add a code table"
        okText="Add"
        onOk={() => void create()}
        onCancel={() => setName(undefined)}
        okButtonProps={{ disabled: !name?.trim() }}
      >
        <Input
          autoFocus
          aria-label="Name"
          placeholder="countries"
          value={name}
          onChange={(e) => setName(e.target.value)}
          onPressEnter={() => name?.trim() && void create()}
        />
      </Modal>
    </>
  );
}
