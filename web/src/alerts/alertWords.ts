import type { AlertRule, AlertSpec } from '../api/types';

export const ALERT_KINDS: Record<string, string> = {
  failed: 'A run failed, stopped, or was not started',
  rejected: 'Too many records were rejected',
  'in-doubt': 'Records are in doubt for too long',
  long: 'A run takes longer than usual',
  absent: 'A run did not happen by a time',
  'no-file': 'No file came by a time',
  'on-hold': 'A run is on hold for too long',
  certificate: 'A certificate or key ends soon',
  watermark: 'A watermark stands still',
};

/** Says in a line what a rule waits for. */
export function ruleWords(kind: AlertRule['kind'], s: AlertSpec): string {
  const days = s.days ? `, on ${s.days}` : '';
  switch (kind) {
    case 'rejected':
      return [
        s.count !== undefined && `more than ${s.count}`,
        s.percent !== undefined && `more than ${s.percent} %`,
      ]
        .filter(Boolean)
        .join(' or ')
        .concat(' rejected');
    case 'in-doubt':
      return `in doubt for ${s.minutes} minutes`;
    case 'on-hold':
      return `on hold for ${s.minutes} minutes`;
    case 'long':
      return s.minutes ? `longer than ${s.minutes} minutes` : `${s.percent} % of the usual time`;
    case 'absent':
      return `not done by ${s.by} (${s.zone ?? 'UTC'})${days}`;
    case 'no-file':
      return `no file by ${s.by} (${s.zone ?? 'UTC'})${days}`;
    case 'certificate':
      return `${s.daysBefore} days before its end`;
    case 'watermark':
      return `no move for ${s.hours} hours`;
    default:
      return 'failed, stopped, interrupted, not started';
  }
}
