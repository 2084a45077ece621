import { type Fill, freeId } from '../api/flow';
import type { SheetRow } from '../api/types';
import { within } from '../shared/picks';

/** Picks in a flow are fills of their own: these change the fills of a request with them. */

const bare = (target: string) => target.replace(/\{[^}]*\}/g, '');

/** Returns the paths that decide which rows a sheet has. */
export function pickPaths(fills: Fill[]): string[] {
  return fills.filter((f) => f.pick || /[~#]/.test(bare(f.target))).map((f) => f.target);
}

function added(fills: Fill[], target: string): Fill[] {
  return fills.some((f) => f.target === target)
    ? fills
    : [...fills, { id: freeId(fills, 'q'), target, pick: true }];
}

/** Picks a derived type or substitute for a row; what was filled below it goes along. */
export function repicked(fills: Fill[], row: SheetRow, path: string): Fill[] {
  const moved = fills
    .filter((f) => !(f.pick && f.target === row.path))
    .map((f) => (within(f.target, row.path) ? { ...f, target: path + f.target.slice(row.path.length) } : f));
  return path === row.declared ? moved : added(moved, path);
}

/** Adds a further occurrence of a repeated row. */
export function withNextRow(fills: Fill[], row: SheetRow): Fill[] {
  const first = fills.some((f) => within(f.target, row.path)) ? fills : added(fills, row.path);
  return row.next ? added(first, row.next) : first;
}

/** Takes a row away with everything filled below it. */
export function withoutFilledRow(fills: Fill[], row: SheetRow): Fill[] {
  return fills.filter((f) => !within(f.target, row.path));
}

/** Chooses one branch of a choice; what was filled in the others goes. */
export function withChosen(fills: Fill[], row: SheetRow, rows: SheetRow[]): Fill[] {
  const others = rows.filter((r) => r.choiceGroup === row.choiceGroup && r.choice !== row.choice);
  return added(
    fills.filter((f) => !others.some((o) => within(f.target, o.path))),
    row.path,
  );
}
