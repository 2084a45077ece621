import { useQuery } from '@tanstack/react-query';
import { Form, Input, InputNumber, Modal, Select } from 'antd';
import { type ReactNode, useState } from 'react';
import { api } from '../api/client';
import type { AlertRule, AlertSpec, Page, WorkingDays } from '../api/types';
import { useEnvironment, useEnvironments } from '../shared/environment';
import { Trouble } from '../shared/parts';
import { ZONES } from '../triggers/zones';
import { ALERT_KINDS } from './alertWords';

const OWN_ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone;
const START: Record<string, AlertSpec> = {
  failed: {},
  rejected: { percent: 5 },
  'in-doubt': { minutes: 30 },
  long: { percent: 200 },
  absent: { by: '07:00', zone: OWN_ZONE },
  'no-file': { by: '07:00', zone: OWN_ZONE },
  'on-hold': { minutes: 30 },
  certificate: { daysBefore: 21 },
  watermark: { hours: 24 },
};

/** When somebody is told, whom, and when it is quiet. */
export function RuleForm({
  flow,
  rule,
  onClose,
  onSaved,
}: {
  /** The flow a new rule is about; every one without. */
  flow?: string;
  rule?: AlertRule;
  onClose: () => void;
  onSaved: () => void;
}) {
  const chosen = useEnvironment();
  const environments = useEnvironments();
  const [kind, setKind] = useState(rule?.kind ?? 'failed');
  const [environment, setEnvironment] = useState<string | undefined>(rule ? rule.environment : chosen);
  const [spec, setSpec] = useState<AlertSpec>(rule?.spec ?? { mail: [] });
  const [error, setError] = useState<unknown>();
  const days = useQuery({
    queryKey: ['working-days', 'all'],
    queryFn: () => api.get<Page<WorkingDays>>('/working-days?size=500'),
  });
  const set = (part: Partial<AlertSpec>) => setSpec({ ...spec, ...part });
  const save = async () => {
    setError(undefined);
    try {
      const body = { flowId: flow ? Number(flow) : undefined, environment, kind, spec };
      if (rule) await api.put(`/alert-rules/${rule.id}`, body, { 'If-Match': `"${rule.version}"` });
      else await api.post('/alert-rules', body);
      onSaved();
    } catch (e) {
      setError(e);
    }
  };
  const number = (
    name: 'count' | 'percent' | 'minutes' | 'daysBefore' | 'hours',
    unit: string,
  ): ReactNode => (
    <InputNumber
      aria-label={unit}
      min={0}
      precision={0}
      value={spec[name]}
      suffix={unit}
      className="field-2xl"
      onChange={(v) => set({ [name]: v ?? undefined })}
    />
  );
  const time = (name: 'by' | 'quietFrom' | 'quietTo', label: string) => (
    <Input
      className="mono field-s"
      aria-label={label}
      placeholder={name === 'by' ? '07:00' : '–'}
      value={spec[name]}
      onChange={(e) => set({ [name]: e.target.value || undefined })}
    />
  );
  const byTime = kind === 'absent' || kind === 'no-file';
  const kinds = Object.entries(ALERT_KINDS).filter(
    ([k]) => flow !== undefined || !['absent', 'no-file'].includes(k),
  );
  return (
    <Modal
      open
      width={640}
      title={rule ? 'Rule' : 'Add a rule'}
      okText={rule ? 'Save' : 'Add'}
      onOk={() => void save()}
      onCancel={onClose}
    >
      <Trouble error={error} />
      <Form colon={false} labelCol={{ flex: '110px' }} labelAlign="left" size="small" className="gap-above">
        <Form.Item label="When">
          <Select
            aria-label="Kind of rule"
            disabled={!!rule}
            value={kind}
            onChange={(k) => {
              setKind(k);
              setSpec({ ...START[k], mail: spec.mail, hook: spec.hook });
            }}
            options={kinds.map(([value, label]) => ({ value, label }))}
          />
        </Form.Item>
        <Form.Item label="In">
          <Select
            aria-label="Environment of the rule"
            className="field-xl"
            allowClear={!byTime}
            placeholder="all"
            value={environment}
            onChange={setEnvironment}
            options={environments.map((e) => ({ value: e.name, label: e.name }))}
          />
        </Form.Item>
        {kind === 'rejected' && (
          <Form.Item label="More than">
            <span className="row">
              {number('count', 'records')} <span className="dim">or</span> {number('percent', 'percent')}
            </span>
          </Form.Item>
        )}
        {(kind === 'in-doubt' || kind === 'on-hold') && (
          <Form.Item label="For">{number('minutes', 'minutes')}</Form.Item>
        )}
        {kind === 'long' && (
          <Form.Item
            label="More than"
            extra="The usual time is the middle of the last ten runs that were done."
          >
            <span className="row">
              {number('minutes', 'minutes')} <span className="dim">or</span>{' '}
              {number('percent', '% of the usual')}
            </span>
          </Form.Item>
        )}
        {kind === 'certificate' && (
          <Form.Item label="So long before">{number('daysBefore', 'days')}</Form.Item>
        )}
        {kind === 'watermark' && <Form.Item label="For">{number('hours', 'hours')}</Form.Item>}
        {byTime && (
          <Form.Item label="By">
            <span className="row">
              {time('by', 'By')}
              <Select
                aria-label="Working days"
                className="field-xl"
                allowClear
                placeholder="every day"
                value={spec.days}
                onChange={(name?: string) => set({ days: name })}
                options={days.data?.items.map((d) => ({ value: d.name, label: d.name }))}
              />
            </span>
          </Form.Item>
        )}
        <Form.Item label="Mail to">
          <Select
            mode="tags"
            aria-label="Mail to"
            open={false}
            suffixIcon={null}
            tokenSeparators={[',', ';', ' ']}
            placeholder="night@halewick.invalid"
            value={spec.mail}
            onChange={(mail: string[]) => set({ mail })}
          />
        </Form.Item>
        <Form.Item label="Web hook" extra="Gets JSON by POST; its host must be allowed.">
          <Input
            className="mono"
            aria-label="Web hook"
            placeholder="https://"
            value={spec.hook}
            onChange={(e) => set({ hook: e.target.value || undefined })}
          />
        </Form.Item>
        <Form.Item label="Quiet" extra="Mails and hooks wait until it is over; the Desk shows it at once.">
          <span className="row">
            {time('quietFrom', 'Quiet from')} <span className="dim">to</span> {time('quietTo', 'Quiet to')}
          </span>
        </Form.Item>
        <Form.Item label="Zone">
          <Select
            showSearch
            aria-label="Zone"
            className="field-3xl"
            value={spec.zone ?? 'UTC'}
            onChange={(zone) => set({ zone })}
            options={ZONES.map((zone) => ({ value: zone, label: zone }))}
          />
        </Form.Item>
      </Form>
    </Modal>
  );
}
