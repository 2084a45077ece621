import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Drawer, Input, Segmented, Table, Tag } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { BenchComparison, Difference } from '../api/types';
import { Trouble } from '../shared/parts';

const SIGN: Record<string, string> = { ADDED: '+', REMOVED: '−', CHANGED: '~' };

/** Two calls side by side, by structure; fields that always differ can be ignored. */
export function CompareCalls({ one, other, onClose }: { one: number; other: number; onClose: () => void }) {
  const [side, setSide] = useState<'reply' | 'request'>('reply');
  const [text, setText] = useState('');
  const [ignored, setIgnored] = useState<string[]>([]);
  const found = useQuery({
    queryKey: ['bench-comparison', one, other, ignored],
    queryFn: () =>
      api.get<BenchComparison>(
        `/bench/comparison?one=${one}&other=${other}${ignored.map((i) => `&ignore=${encodeURIComponent(i)}`).join('')}`,
      ),
    placeholderData: keepPreviousData,
  });
  const all = found.data?.[side] ?? [];
  const rows = all.filter((d) =>
    `${d.path} ${d.before} ${d.after}`.toLowerCase().includes(text.trim().toLowerCase()),
  );
  const last = (path: string) =>
    path
      .replace(/\[\d+\]/g, '')
      .split('/')
      .pop()
      ?.replace('@', '') ?? path;
  return (
    <Drawer open onClose={onClose} size={820} title={`Call ${one} and call ${other}`}>
      <div className="row gap-below wraps">
        <Segmented
          size="small"
          value={side}
          onChange={setSide}
          options={[
            { value: 'reply', label: `Replies ${found.data?.reply.length ?? ''}` },
            { value: 'request', label: `Requests ${found.data?.request.length ?? ''}` },
          ]}
        />
        <Input
          size="small"
          allowClear
          placeholder="Find a difference"
          className="field-xl"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        {ignored.map((name) => (
          <Tag key={name} closable onClose={() => setIgnored(ignored.filter((i) => i !== name))}>
            ignoring {name}
          </Tag>
        ))}
      </div>
      <Trouble error={found.error} />
      {found.data?.problems.map((p) => (
        <p key={p} className="bad">
          {p}
        </p>
      ))}
      {found.data && all.length === 0 && found.data.problems.length === 0 ? (
        <p>
          The {side === 'reply' ? 'replies' : 'requests'} are the same
          {ignored.length > 0 ? ' but for what is ignored' : ''}.
        </p>
      ) : (
        <Table<Difference>
          size="small"
          rowKey={(d) => `${d.kind}${d.path}`}
          dataSource={rows}
          pagination={{ pageSize: 15, hideOnSinglePage: true, showSizeChanger: false }}
          columns={[
            { width: 26, render: (_, d) => <b className="mono">{SIGN[d.kind]}</b> },
            {
              title: 'Where',
              dataIndex: 'path',
              render: (p: string) => (
                <span className="anywhere" title={p}>
                  {p.split('/').slice(2).join(' › ') || p}
                </span>
              ),
              sorter: (a, b) => a.path.localeCompare(b.path),
            },
            {
              title: `Call ${one}`,
              dataIndex: 'before',
              width: 190,
              render: (t: string) => <span className="mono anywhere">{t}</span>,
            },
            {
              title: `Call ${other}`,
              dataIndex: 'after',
              width: 190,
              render: (t: string) => <span className="mono anywhere">{t}</span>,
            },
            {
              width: 76,
              render: (_, d) => (
                <button
                  type="button"
                  className="linkish"
                  onClick={() => setIgnored([...ignored, last(d.path)])}
                >
                  ignore
                </button>
              ),
            },
          ]}
        />
      )}
    </Drawer>
  );
}
