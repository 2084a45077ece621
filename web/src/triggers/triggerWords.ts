import type { TriggerEvent } from '../api/types';

const WHAT: Record<string, string> = {
  started: 'started run',
  waits: 'waits',
  'left-out': 'left out',
  missed: 'missed',
  'same-content': 'same content',
  refused: 'not started',
  reading: 'reads the queue',
};

/** Says in a few words what a trigger did. */
export function eventWords(event: TriggerEvent): string {
  const what = WHAT[event.what] ?? event.what;
  if (event.what === 'started') return `${what} ${event.runId}`;
  return event.message ? `${what}: ${event.message}` : what;
}
