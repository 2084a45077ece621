import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Input, type TableProps } from 'antd';
import { useState } from 'react';
import { api, query } from '../api/client';
import type { Page } from '../api/types';

const SIZE = 20;

/**
 * A list that the server searches, sorts and pages.
 *
 * @param what its path, `flows`
 * @param also what else it is narrowed or sorted by
 * @param every how often it is asked for again, in milliseconds
 */
export function usePaged<T extends { id: number }>(
  what: string,
  also: Record<string, string> = {},
  every?: number,
) {
  const [text, setText] = useState('');
  const [page, setPage] = useState(1);
  const list = useQuery({
    queryKey: [what, text, page, also],
    queryFn: () => api.get<Page<T>>(`/${what}${query({ q: text, page, size: SIZE, ...also })}`),
    placeholderData: keepPreviousData,
    refetchInterval: every,
  });
  const table: TableProps<T> = {
    size: 'small',
    rowKey: 'id',
    loading: list.isPending,
    dataSource: list.data?.items,
    pagination: {
      current: page,
      pageSize: SIZE,
      total: list.data?.total,
      onChange: setPage,
      hideOnSinglePage: true,
      showSizeChanger: false,
    },
  };
  return {
    list,
    /** What its table needs of it. */
    table,
    /** Whether there is nothing at all, not only nothing that was searched for. */
    none: list.data?.total === 0 && !text,
    find: (wanted: string) => {
      setText(wanted);
      setPage(1);
    },
  };
}

/** The field that searches a list. */
export function Find({ placeholder, onFind }: { placeholder: string; onFind: (text: string) => void }) {
  return (
    <Input.Search
      allowClear
      placeholder={placeholder}
      className="field-2xl"
      onChange={(e) => onFind(e.target.value)}
    />
  );
}

/** Rows that open something when they are clicked. */
export function opening<T>(open: (row: T) => void): TableProps<T>['onRow'] {
  return (row) => ({ onClick: () => open(row), className: 'opens' });
}
