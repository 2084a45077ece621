import type { SheetRow } from '../api/types';

/** Returns the paths of the rows that are in every message: required, and so is everything above them. */
export function requiredAllTheWay(rows: SheetRow[], byPath: Map<string, SheetRow>): Set<string> {
  const certain = new Set<string>();
  for (const row of rows) {
    const above = byPath.get(row.parent);
    if (row.depth > 0 && row.required && (!above || above.depth === 0 || certain.has(above.path)))
      certain.add(row.path);
  }
  return certain;
}

/** Returns the paths of rows and of everything above them. */
export function withAbove(byPath: Map<string, SheetRow>, rows: SheetRow[]): Set<string> {
  const keep = new Set<string>();
  for (const row of rows)
    for (let path = row.path; path && !keep.has(path); path = byPath.get(path)?.parent ?? '') keep.add(path);
  return keep;
}

/** Returns how many fields there are below each row, and how many of them are filled. */
export function filledBelow(rows: SheetRow[], byPath: Map<string, SheetRow>, filled: Set<string>) {
  const below = new Map<string, { leaves: number; filled: number }>();
  for (const row of rows) {
    if (!row.leaf) continue;
    for (let path = row.parent; path; path = byPath.get(path)?.parent ?? '') {
      const count = below.get(path) ?? { leaves: 0, filled: 0 };
      below.set(path, { leaves: count.leaves + 1, filled: count.filled + (filled.has(row.path) ? 1 : 0) });
    }
  }
  return below;
}
