import { Input, Segmented, Table } from 'antd';
import { useState } from 'react';
import type { Change } from '../api/types';

const SIGN: Record<string, string> = { ADDED: '+', REMOVED: '−', CHANGED: '~' };
const WORD: Record<string, string> = { ADDED: 'added', REMOVED: 'removed', CHANGED: 'changed' };
const LOOK: Record<string, string> = { ADDED: '', REMOVED: 'bad', CHANGED: '' };

/** Returns a path without namespaces, as people say it. */
export function shortPath(path: string): string {
  return path
    .replace(/\{[^}]*\}/g, '')
    .replace(/^\//, '')
    .replaceAll('/', ' › ');
}

/** What differs between two revisions, by message field with old and new. */
export function Changes({ changes }: { changes: Change[] }) {
  const [text, setText] = useState('');
  const [kind, setKind] = useState('all');
  const wanted = text.trim().toLowerCase();
  const fits = changes.filter(
    (c) =>
      (kind === 'all' || String(c.kind) === kind) &&
      `${c.operation} ${c.message} ${shortPath(c.field)} ${c.what} ${c.before} ${c.after}`
        .toLowerCase()
        .includes(wanted),
  );
  const count = (k: string) => changes.filter((c) => String(c.kind) === k).length;
  return (
    <>
      <div className="row gap-below">
        <Input
          size="small"
          allowClear
          placeholder="Find a change"
          className="field-2xl"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <Segmented
          size="small"
          value={kind}
          onChange={setKind}
          options={[
            { value: 'all', label: `All ${changes.length}` },
            ...['ADDED', 'REMOVED', 'CHANGED']
              .filter(count)
              .map((k) => ({ value: k, label: `${WORD[k]} ${count(k)}` })),
          ]}
        />
        {changes.length >= 2000 && <span className="dim">only the first 2,000 are shown</span>}
      </div>
      <Table<Change>
        size="small"
        rowKey={(c) =>
          `${c.kind}|${c.port}|${c.operation}|${c.message}|${c.field}|${c.what}|${c.before}|${c.after}`
        }
        dataSource={fits}
        pagination={{ pageSize: 12, hideOnSinglePage: true, showSizeChanger: false }}
        columns={[
          {
            width: 28,
            render: (_, c) => (
              <b className={`mono ${LOOK[c.kind]}`} title={WORD[c.kind]}>
                {SIGN[c.kind]}
              </b>
            ),
          },
          {
            title: 'Operation',
            width: 190,
            render: (_, c) => (
              <>
                {c.operation || c.port}
                {c.message && <span className="dim"> {c.message}</span>}
              </>
            ),
            sorter: (a, b) => a.operation.localeCompare(b.operation),
          },
          {
            title: 'Field',
            render: (_, c) =>
              c.field ? (
                <span title={c.field} className="anywhere">
                  {shortPath(c.field)}
                </span>
              ) : (
                <span className="faint">–</span>
              ),
            sorter: (a, b) => a.field.localeCompare(b.field),
          },
          { title: 'What', dataIndex: 'what', width: 120, sorter: (a, b) => a.what.localeCompare(b.what) },
          {
            title: 'Before',
            dataIndex: 'before',
            width: 200,
            render: (t: string) => <span className="mono dim anywhere">{t}</span>,
          },
          {
            title: 'After',
            dataIndex: 'after',
            width: 200,
            render: (t: string) => <span className="mono anywhere">{t}</span>,
          },
        ]}
      />
    </>
  );
}
