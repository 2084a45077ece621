import { type Fill } from '../api/flow';
import type { SourceField, SourceGroup } from '../api/types';
import { within } from '../shared/picks';

/** Inside a repeat each node has a name of its own; these tell what is in reach there, and where it comes from. */

const variable = (repeat: Fill) => `$${repeat.as ?? 'item'}`;

/** Returns the repeats a target stands in, the outermost first. */
export function repeatsAround(fills: Fill[], target: string | undefined): Fill[] {
  if (!target) return [];
  return fills
    .filter((f) => f.repeat !== undefined && f.target !== target && within(target, f.target))
    .sort((a, b) => a.target.length - b.target.length);
}

/** Returns the path from outside that a wire inside repeats leads along: $crate/no is $loan/crate/no. */
export function pathOutside(wire: string, around: Fill[]): string {
  return around.reduceRight((at, repeat) => {
    const as = variable(repeat);
    return at === as || at.startsWith(`${as}/`) ? String(repeat.repeat) + at.slice(as.length) : at;
  }, wire);
}

/** Returns a wire as it is written inside repeats: $loan/crate/no is $crate/no. */
export function pathInside(wire: string, around: Fill[]): string {
  return around.reduce(
    (at, repeat) =>
      at === repeat.repeat || at.startsWith(`${repeat.repeat}/`)
        ? variable(repeat) + at.slice(String(repeat.repeat).length)
        : at,
    wire,
  );
}

/** Returns what is in reach at a target; inside repeats the repeated nodes come first, with the values of the first. */
export function sourcesAt(groups: SourceGroup[], around: Fill[]): SourceGroup[] {
  let all = groups;
  for (const repeat of around) {
    const from = String(repeat.repeat);
    const as = variable(repeat);
    const own = all.flatMap((g) => g.fields).find((f) => f.wire === from);
    const below = all.flatMap((g) => g.fields).filter((f) => f.wire.startsWith(`${from}/`));
    if (!own) continue;
    const inside = below.map((f): SourceField => ({
      ...f,
      wire: as + f.wire.slice(from.length),
      depth: f.depth - own.depth - 1,
    }));
    const grouped = repeat.each?.groupBy?.length
      ? [
          { ...own, wire: `${as}/line`, name: 'line', depth: 0, repeats: true },
          ...below.map((f): SourceField => ({
            ...f,
            wire: `${as}/line${f.wire.slice(from.length)}`,
            depth: f.depth - own.depth,
          })),
        ]
      : [];
    const fields = below.length
      ? [...inside, ...grouped]
      : [{ ...own, wire: as, name: as.slice(1), depth: 0, repeats: false }];
    all = [
      { variable: as.slice(1), title: 'each in turn', fields },
      ...all.filter((g) => g.variable !== as.slice(1)),
    ];
  }
  return all;
}
