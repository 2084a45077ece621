import { useQuery } from '@tanstack/react-query';
import { Select } from 'antd';
import { useState } from 'react';
import { api, query } from '../api/client';
import type { PickChoice, SheetRow } from '../api/types';

/** Which message of which operation a sheet shows. */
export type MessageAt = { service?: string; port?: string; operation?: string; message: string };

/** A name that holds what was typed comes before a text that mentions it. */
function nameFirst(a: { label?: unknown }, b: { label?: unknown }, info: { searchValue: string }): number {
  const rank = (o: { label?: unknown }) => {
    const at = String(o.label).toLowerCase().indexOf(info.searchValue.toLowerCase());
    return at < 0 ? 1000 : at;
  };
  return rank(a) - rank(b) || String(a.label).localeCompare(String(b.label), 'en', { numeric: true });
}

/** The derived types and substitutes of a row, searchable, asked for when the list is opened. */
export function PickMenu({
  contract,
  at,
  row,
  onPick,
}: {
  contract: number;
  at: MessageAt;
  row: SheetRow;
  onPick: (path: string) => void;
}) {
  const [open, setOpen] = useState(false);
  const choices = useQuery({
    queryKey: ['choices', contract, at, row.path],
    queryFn: () => api.get<PickChoice[]>(`/contracts/${contract}/choices${query({ ...at, path: row.path })}`),
    enabled: open,
    staleTime: 60_000,
  });
  const elements = choices.data?.filter((c) => c.kind === 'element') ?? [];
  const types = choices.data?.filter((c) => c.kind === 'type') ?? [];
  const option = (c: PickChoice) => ({
    value: c.path,
    label: c.name,
    search: `${c.name} ${c.documentation}`,
    title: c.documentation || c.namespace,
  });
  const groups = [
    ...(elements.length ? [{ label: 'Elements that can stand here', options: elements.map(option) }] : []),
    ...(types.length ? [{ label: 'Types', options: types.map(option) }] : []),
  ];
  const count = row.elementChoices || row.typeChoices;
  const shown = row.picked ?? (row.path !== row.declared && row.elementChoices > 0 ? row.name : undefined);
  return (
    <Select
      size="small"
      variant="filled"
      showSearch={{ optionFilterProp: 'search', filterSort: nameFirst }}
      aria-label={`Pick for ${row.name}`}
      className="mono chip-pick"
      status={row.mustPick && !shown ? 'error' : undefined}
      popupMatchSelectWidth={300}
      placeholder={row.mustPick ? `pick 1 of ${count}` : `${count} to pick from`}
      value={shown}
      loading={choices.isFetching}
      open={open}
      onOpenChange={setOpen}
      options={groups}
      onClick={(e) => e.stopPropagation()}
      onSelect={(path: unknown) => {
        // the keys belong to the sheet again
        if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
        onPick(String(path));
      }}
    />
  );
}
