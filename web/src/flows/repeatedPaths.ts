import type { SheetRow } from '../api/types';

/** Returns the paths of the elements of a message that repeat, from the variable that holds it. */
export function repeatedPaths(rows: SheetRow[], variable: string): string[] {
  const path = (of: string): string => {
    const row = rows.find((r) => r.path === of);
    return row?.parent ? `${path(row.parent)}/${row.name}` : `$${variable}`;
  };
  return rows.filter((r) => r.max !== 1 && r.kind === 'element').map((r) => path(r.path));
}
