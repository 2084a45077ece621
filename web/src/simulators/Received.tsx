import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Drawer, Input, Pagination, Tabs } from 'antd';
import { useState } from 'react';
import { api, query } from '../api/client';
import type { Page, SimulatorRequest } from '../api/types';
import { When } from '../shared/parts';

const SIZE = 25;

/** What the simulator received, the newest first: what was asked, which rule answered, what was wrong with it. */
export function Received({ simulator }: { simulator: number }) {
  const client = useQueryClient();
  const [text, setText] = useState('');
  const [page, setPage] = useState(1);
  const [open, setOpen] = useState<SimulatorRequest>();
  const list = useQuery({
    queryKey: ['simulator-requests', simulator, text, page],
    queryFn: () =>
      api.get<Page<SimulatorRequest>>(
        `/simulators/${simulator}/requests${query({ q: text, page, size: SIZE })}`,
      ),
    refetchInterval: 2_000,
    placeholderData: keepPreviousData,
  });
  const forget = async () => {
    await api.remove(`/simulators/${simulator}/requests`);
    await client.invalidateQueries({ queryKey: ['simulator-requests', simulator] });
  };
  const by = (r: SimulatorRequest) =>
    r.rule === undefined
      ? r.operation
        ? 'an example answered'
        : 'no operation'
      : `rule ${r.rule + 1} answered`;
  return (
    <div className="column full-height">
      <div className="row pad">
        <b>Received</b> <span className="dim">{list.data?.total ?? ''}</span> <span className="grow" />
        <Input
          size="small"
          allowClear
          placeholder="Find"
          className="field-m"
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            setPage(1);
          }}
        />
        <Button size="small" type="text" disabled={!list.data?.total} onClick={() => void forget()}>
          Forget all
        </Button>
      </div>
      <div className="scrolls fills" role="list" aria-label="Received requests">
        {list.data?.items.map((r) => (
          <div
            key={r.id}
            role="listitem"
            className="pad-row underlined chosen-by-click"
            onClick={() => setOpen(r)}
          >
            <div className="row">
              <b className="clip grow">{r.operation ?? 'not understood'}</b>
              <span className={r.status >= 400 ? 'bad' : ''}>HTTP {r.status}</span>
            </div>
            <div className="row">
              <span className="dim grow">{by(r)}</span>
              <span className="faint">
                <When at={r.receivedAt} />
              </span>
            </div>
            {r.problem && (
              <div className="bad clip" title={r.problem}>
                {r.problem}
              </div>
            )}
          </div>
        ))}
        {list.data?.total === 0 && (
          <p className="dim pad">
            {text ? 'Nothing fits.' : 'Nothing yet. Choose the environment Simulator above and call.'}
          </p>
        )}
      </div>
      {(list.data?.total ?? 0) > SIZE && (
        <Pagination
          simple
          size="small"
          current={page}
          pageSize={SIZE}
          total={list.data?.total}
          onChange={setPage}
          className="pad-s"
        />
      )}
      <Drawer
        open={!!open}
        onClose={() => setOpen(undefined)}
        size={760}
        title={open?.operation ?? 'Not understood'}
      >
        {open?.problem && <p className="bad">{open.problem}</p>}
        <Tabs
          items={[
            {
              key: 'request',
              label: 'Request',
              children: <pre className="xml keeps-lines anywhere">{open?.request}</pre>,
            },
            {
              key: 'reply',
              label: `Answer, HTTP ${open?.status ?? ''}`,
              children: <pre className="xml keeps-lines anywhere">{open?.reply}</pre>,
            },
          ]}
        />
      </Drawer>
    </div>
  );
}
