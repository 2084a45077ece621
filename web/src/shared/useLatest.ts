import { type RefObject, useLayoutEffect, useRef } from 'react';

/** Returns a reference to the value of the last rendering, for listeners and timers that outlive one. */
export function useLatest<T>(value: T): RefObject<T> {
  const latest = useRef(value);
  useLayoutEffect(() => {
    latest.current = value;
  });
  return latest;
}
