import { Input, Segmented, Table } from 'antd';
import { useState } from 'react';
import type { Finding } from '../api/types';

const LOOK: Record<string, string> = { ERROR: 'bad', WARNING: '', NOTE: 'faint' };
const WORD: Record<string, string> = { ERROR: 'error', WARNING: 'repaired', NOTE: 'note' };

/** What was unusual while reading, with its place; a click shows it there. */
export function Findings({
  findings,
  onPlace,
}: {
  findings: Finding[];
  onPlace?: (finding: Finding) => void;
}) {
  const [text, setText] = useState('');
  const [severity, setSeverity] = useState('all');
  const fits = findings.filter(
    (f) =>
      (severity === 'all' || String(f.severity) === severity) &&
      `${f.code} ${f.message} ${f.document}`.toLowerCase().includes(text.trim().toLowerCase()),
  );
  const count = (s: string) => findings.filter((f) => String(f.severity) === s).length;
  return (
    <>
      {findings.length > 8 && (
        <div className="row gap-below">
          <Input
            size="small"
            allowClear
            placeholder="Find a finding"
            className="field-2xl"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <Segmented
            size="small"
            value={severity}
            onChange={setSeverity}
            options={[
              { value: 'all', label: `All ${findings.length}` },
              ...['ERROR', 'WARNING', 'NOTE']
                .filter(count)
                .map((s) => ({ value: s, label: `${WORD[s]} ${count(s)}` })),
            ]}
          />
        </div>
      )}
      <Table<Finding>
        size="small"
        rowKey={(f) => `${f.document}:${f.line}:${f.column}:${f.code}:${f.message}`}
        dataSource={fits}
        pagination={{ pageSize: 10, hideOnSinglePage: true, showSizeChanger: false }}
        onRow={(f) => ({ onClick: () => onPlace?.(f), style: onPlace ? { cursor: 'pointer' } : {} })}
        columns={[
          {
            title: 'Severity',
            dataIndex: 'severity',
            width: 86,
            render: (s: string) => <span className={LOOK[s]}>{WORD[s]}</span>,
            sorter: (a, b) => String(a.severity).localeCompare(String(b.severity)),
          },
          {
            title: 'What',
            render: (_, f) => (
              <>
                <span className="mono dim">{f.code}</span>
                <div>{f.message}</div>
              </>
            ),
            sorter: (a, b) => a.code.localeCompare(b.code),
          },
          {
            title: 'Where',
            width: 210,
            sorter: (a, b) => a.document.localeCompare(b.document) || a.line - b.line,
            render: (_, f) => {
              const where = `${f.document}:${f.line}:${f.column}`;
              return onPlace ? (
                <button type="button" className="linkish mono anywhere left wraps-text">
                  {where}
                </button>
              ) : (
                <span className="mono anywhere">{where}</span>
              );
            },
          },
        ]}
      />
    </>
  );
}
