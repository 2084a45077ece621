import { Table } from 'antd';
import type { Finding } from '../api/types';

const LOOK: Record<string, string> = { ERROR: 'bad', WARNING: '', NOTE: 'faint' };

/** What was unusual while reading, with its place. */
export function Findings({ findings, onPlace }: { findings: Finding[]; onPlace?: (finding: Finding) => void }) {
  return (
    <Table<Finding>
      size="small"
      rowKey={(f) => `${f.document}:${f.line}:${f.column}:${f.code}:${f.message}`}
      dataSource={findings}
      pagination={{ pageSize: 10, hideOnSinglePage: true }}
      onRow={(f) => ({ onClick: () => onPlace?.(f), style: onPlace ? { cursor: 'pointer' } : {} })}
      columns={[
        { title: 'Severity', dataIndex: 'severity', width: 90, render: (s: string) => <span className={LOOK[s]}>{s.toLowerCase()}</span>, sorter: (a, b) => String(a.severity).localeCompare(String(b.severity)) },
        { title: 'What', render: (_, f) => <><span className="mono dim">{f.code}</span><div>{f.message}</div></> },
        { title: 'Where', width: 210, render: (_, f) => <span className="mono" style={{ overflowWrap: 'anywhere' }}>{f.document}:{f.line}:{f.column}</span> },
      ]}
    />
  );
}
