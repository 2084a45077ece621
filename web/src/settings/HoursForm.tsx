import { Button, Checkbox, Input, InputNumber, Select } from 'antd';
import type { EndpointSettings } from '../api/types';
import { ZONES } from '../triggers/zones';

type Hours = NonNullable<NonNullable<EndpointSettings['limits']>['hours']>;
type Span = NonNullable<Hours['open']>[number];

const WEEK = ['Mo', 'Tu', 'We', 'Th', 'Fr', 'Sa', 'Su'];
const OWN_ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** When runs may call an endpoint, and how fast then. */
export function HoursForm({ hours, onChange }: { hours?: Hours; onChange: (hours?: Hours) => void }) {
  if (!hours)
    return (
      <Checkbox
        checked={false}
        onChange={() => onChange({ zone: OWN_ZONE, open: [{ days: [], from: '22:00', to: '05:30' }] })}
      >
        runs call only at some hours
      </Checkbox>
    );
  const open = hours.open ?? [];
  const set = (at: number, part: Partial<Span>) =>
    onChange({ ...hours, open: open.map((s, i) => (i === at ? { ...s, ...part } : s)) });
  const time = (at: number, name: 'from' | 'to') => (
    <Input
      size="small"
      className="mono field-s"
      aria-label={`${name} ${at + 1}`}
      value={open[at]?.[name]}
      onChange={(e) => set(at, { [name]: e.target.value })}
    />
  );
  return (
    <div className="stack tight">
      {open.map((span, at) => (
        <div key={at} className="row wraps">
          {time(at, 'from')} to {time(at, 'to')}
          <Checkbox.Group
            value={span.days ?? []}
            onChange={(days) => set(at, { days })}
            options={WEEK.map((label, i) => ({ label, value: i + 1 }))}
          />
          <InputNumber
            size="small"
            className="field-m"
            aria-label={`calls a second ${at + 1}`}
            placeholder="any"
            suffix="a second"
            min={0.01}
            value={span.perSecond}
            onChange={(v) => set(at, { perSecond: v ?? undefined })}
          />
          <Button
            size="small"
            type="text"
            aria-label={`remove hours ${at + 1}`}
            onClick={() => {
              const rest = open.filter((_, i) => i !== at);
              onChange(rest.length > 0 ? { ...hours, open: rest } : undefined);
            }}
          >
            ✕
          </Button>
        </div>
      ))}
      <div className="row wraps">
        <Button
          size="small"
          onClick={() => onChange({ ...hours, open: [...open, { days: [], from: '12:00', to: '13:00' }] })}
        >
          More hours
        </Button>
        <Select
          showSearch
          size="small"
          aria-label="Zone of the hours"
          className="field-2xl"
          value={hours.zone}
          onChange={(zone) => onChange({ ...hours, zone })}
          options={ZONES.map((zone) => ({ value: zone, label: zone }))}
        />
        <span className="dim">nothing new</span>
        <InputNumber
          size="small"
          className="field-l"
          aria-label="seconds before it closes"
          suffix="s before it closes"
          min={0}
          max={3600}
          value={hours.drainSeconds ?? 0}
          onChange={(v) => onChange({ ...hours, drainSeconds: v ?? undefined })}
        />
        <span className="faint">no day chosen: every day</span>
      </div>
    </div>
  );
}
