import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Select } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { SheetPage } from '../api/types';

/** Returns a field's path as people read it: local names only. */
export function readable(path: string): string {
  return path
    .replace(/\{[^}]*\}/g, '')
    .replace(/^\//, '')
    .replaceAll('/', ' / ');
}

/** Picks a field of a message that holds a value, found by typing a part of its name. */
export function FieldPick({
  contract,
  at,
  value,
  onChange,
  label,
}: {
  contract: number;
  at: { operation: string; message: string };
  value: string;
  onChange: (path: string) => void;
  label: string;
}) {
  const [search, setSearch] = useState('');
  const rows = useQuery({
    queryKey: ['field-pick', contract, at, search],
    queryFn: () =>
      api.post<SheetPage>(`/contracts/${contract}/sheet`, {
        ...at,
        search,
        level: 12,
        open: [],
        closed: [],
        picks: [],
        from: 0,
        size: 200,
      }),
    placeholderData: keepPreviousData,
  });
  const options = (rows.data?.rows ?? [])
    .filter((r) => r.leaf)
    .map((r) => ({ value: r.path, label: readable(r.path) }));
  if (value && !options.some((o) => o.value === value)) options.unshift({ value, label: readable(value) });
  return (
    <Select
      size="small"
      showSearch={{ filterOption: false, onSearch: setSearch }}
      aria-label={label}
      className="field-2xl"
      popupMatchSelectWidth={380}
      placeholder="field"
      value={value || undefined}
      options={options}
      onChange={onChange}
    />
  );
}
