import type { Delivery } from '../api/flow';

/** How a new call is delivered. */
export const DELIVERY: Delivery = {
  effect: 'changes',
  atOnce: 4,
  strict: false,
  keep: 'failures',
  connectMillis: 5_000,
  firstByteMillis: 30_000,
  wholeMillis: 60_000,
  failedWhen: [],
};
