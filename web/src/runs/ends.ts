import type { Run } from '../api/types';

/** How a record can end, in the order the ends are shown; what failed is bad. */
export const ENDS: {
  ended: string;
  label: string;
  count: (run: Run) => number;
  bad: boolean;
  always: boolean;
}[] = [
  { ended: 'done', label: 'done', count: (r) => r.done, bad: false, always: true },
  { ended: 'rejected', label: 'rejected', count: (r) => r.rejected, bad: true, always: true },
  { ended: 'left-out', label: 'left out', count: (r) => r.leftOut, bad: false, always: false },
  { ended: 'in-doubt', label: 'in doubt', count: (r) => r.inDoubt, bad: true, always: true },
  { ended: 'held-back', label: 'held back', count: (r) => r.heldBack, bad: true, always: false },
];

/** Returns the word for an end. */
export function endLabel(ended: string): string {
  return ENDS.find((e) => e.ended === ended)?.label ?? ended;
}

/** Returns how many records were read and have not ended. */
export function onTheirWay(run: Run): number {
  return Math.max(0, run.read - run.ended);
}
