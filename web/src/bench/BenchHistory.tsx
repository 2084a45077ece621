import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input, Pagination } from 'antd';
import { useState } from 'react';
import { api, query } from '../api/client';
import type { BenchCall, Page } from '../api/types';
import { When } from '../shared/parts';
import css from './BenchPage.module.css';
import { CompareCalls } from './CompareCalls';

/** Every call of an operation, the newest first; one can be named, opened again, removed. */
export function BenchHistory({
  contract,
  port,
  operation,
  shown,
  onOpen,
}: {
  contract: number;
  port: string;
  operation: string;
  shown: number | undefined;
  onOpen: (call: BenchCall) => void;
}) {
  const client = useQueryClient();
  const [text, setText] = useState('');
  const [page, setPage] = useState(1);
  const [compared, setCompared] = useState<BenchCall>();
  const list = useQuery({
    queryKey: ['bench-history', contract, port, operation, text, page],
    queryFn: () =>
      api.get<Page<BenchCall>>(
        `/bench/calls${query({ contract, port, operation, q: text, page, size: 30 })}`,
      ),
    placeholderData: (before) => before,
  });
  const refresh = () => client.invalidateQueries({ queryKey: ['bench-history'] });
  return (
    <>
      <div className="pad-s">
        <Input
          size="small"
          allowClear
          placeholder="Find in calls"
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            setPage(1);
          }}
        />
      </div>
      <div className="scrolls fills" role="list" aria-label="Calls">
        {list.data?.items.map((c) => (
          <div
            key={c.id}
            role="listitem"
            className={`${css.call} ${c.id === shown ? css.on : ''}`}
            onClick={() => onOpen(c)}
          >
            <div className="row tight">
              <span className={`mono ${c.state === 'done' ? '' : 'bad'}`}>{c.status || c.state}</span>
              <span className="dim grow">
                <When at={c.calledAt} />
              </span>
              <span className="faint">{c.millis} ms</span>
            </div>
            <div className="row tight">
              <Input
                size="small"
                variant="borderless"
                className="bare-button"
                aria-label={`Name of call ${c.id}`}
                placeholder="name it"
                defaultValue={c.name}
                key={c.name}
                onClick={(e) => e.stopPropagation()}
                onBlur={(e) =>
                  e.target.value !== c.name &&
                  void api.put(`/bench/calls/${c.id}`, { name: e.target.value }).then(refresh)
                }
                onPressEnter={(e) => e.currentTarget.blur()}
              />
              {shown !== undefined && c.id !== shown && (
                <button
                  type="button"
                  className="linkish"
                  onClick={(e) => {
                    e.stopPropagation();
                    setCompared(c);
                  }}
                >
                  compare
                </button>
              )}
              <Button
                size="small"
                type="text"
                aria-label={`Remove call ${c.id}`}
                onClick={(e) => {
                  e.stopPropagation();
                  void api.remove(`/bench/calls/${c.id}`).then(refresh);
                }}
              >
                ×
              </Button>
            </div>
          </div>
        ))}
        {list.data?.total === 0 && <div className="dim pad">{text ? 'No call fits.' : 'No call yet.'}</div>}
      </div>
      {compared && shown !== undefined && (
        <CompareCalls one={compared.id} other={shown} onClose={() => setCompared(undefined)} />
      )}
      {(list.data?.total ?? 0) > 30 && (
        <Pagination
          simple
          size="small"
          current={page}
          pageSize={30}
          total={list.data?.total}
          onChange={setPage}
          className="pad-s"
        />
      )}
    </>
  );
}
