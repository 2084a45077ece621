import type { SheetRow } from '../api/types';

/** What was picked in a message is a list of paths; these change it. A path holds its own picks: #2, ~type. */

/** Tells whether a path is at or below another. */
export function within(path: string, above: string): boolean {
  return path === above || path.startsWith(`${above}/`) || path.startsWith(`${above}~`);
}

/** Returns the picks with another derived type or substitute in the place of a row. */
export function withPick(picks: string[], row: SheetRow, path: string): string[] {
  const rest = picks.filter((p) => !within(p, row.path) && !within(p, row.declared));
  return [...rest, path];
}

/** Returns the picks with one more occurrence of a repeated row. */
export function withNext(picks: string[], row: SheetRow): string[] {
  const own = picks.some((p) => within(p, row.path)) ? [] : [row.path];
  return row.next ? [...picks, ...own, row.next] : picks;
}

/** Returns the picks without a row and what is below it. */
export function withoutRow(picks: string[], row: SheetRow): string[] {
  return picks.filter((p) => !within(p, row.path));
}

/** Returns the picks with one branch of a choice instead of the others. */
export function withBranch(picks: string[], row: SheetRow, rows: SheetRow[]): string[] {
  const others = rows.filter((r) => r.choiceGroup === row.choiceGroup && r.choice !== row.choice);
  return [...picks.filter((p) => !others.some((o) => within(p, o.path))), row.path];
}
