import { useQuery } from '@tanstack/react-query';
import { Checkbox, Form, Input, InputNumber, Modal, Radio, Segmented, Select } from 'antd';
import { useDeferredValue, useState } from 'react';
import { api } from '../api/client';
import type { Dataset, FlowSummary, Page, Times, Trigger, TriggerSpec, WorkingDays } from '../api/types';
import { useEnvironment, useEnvironments } from '../shared/environment';
import { CallerFields } from '../serve/CallerFields';
import { Trouble } from '../shared/parts';
import { QueueFields } from './QueueFields';
import { ZONES } from './zones';

type Kind = 'clock' | 'file' | 'flow' | 'http' | 'queue';
const KINDS = [
  { value: 'clock', label: 'Clock' },
  { value: 'file', label: 'New file' },
  { value: 'flow', label: 'After a flow' },
  { value: 'http', label: 'A caller' },
  { value: 'queue', label: 'A message' },
];
const OWN_ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone;
const START: Record<Kind, TriggerSpec> = {
  clock: { cron: '30 2 * * mon-fri', zone: OWN_ZONE, overlap: 'wait', missed: true },
  file: { restSeconds: 10 },
  flow: { onlyDone: false, overlap: 'wait' },
  http: { seconds: 30, atOnce: 200, kilobytes: 1000 },
  queue: { queue: {} },
};

/** What a trigger waits for; of a clock the next times are shown while it is typed. */
export function TriggerForm({
  flowId,
  trigger,
  onClose,
  onSaved,
}: {
  flowId: string;
  /** The trigger that is changed; a new one without. */
  trigger?: Trigger;
  onClose: () => void;
  onSaved: () => void;
}) {
  const chosen = useEnvironment();
  const environments = useEnvironments();
  const [environment, setEnvironment] = useState(trigger?.environment ?? chosen);
  const [kind, setKind] = useState<Kind>((trigger?.kind as Kind | undefined) ?? 'clock');
  const [spec, setSpec] = useState<TriggerSpec>(trigger?.spec ?? START.clock);
  const [error, setError] = useState<unknown>();
  const set = (part: Partial<TriggerSpec>) => setSpec({ ...spec, ...part });
  const save = async () => {
    setError(undefined);
    try {
      if (trigger) await api.put(`/triggers/${trigger.id}`, { spec }, { 'If-Match': `"${trigger.version}"` });
      else await api.post(`/flows/${flowId}/triggers`, { environment, kind, spec });
      onSaved();
    } catch (e) {
      setError(e);
    }
  };
  return (
    <Modal
      open
      width={680}
      title={trigger ? 'Trigger' : 'Add a trigger'}
      okText={trigger ? 'Save' : 'Add'}
      onOk={() => void save()}
      onCancel={onClose}
    >
      <Trouble error={error} />
      <Form
        colon={false}
        layout="horizontal"
        labelCol={{ flex: '130px' }}
        labelAlign="left"
        size="small"
        className="gap-above"
      >
        {!trigger && (
          <>
            <Form.Item label="Starts it">
              <Segmented
                value={kind}
                options={KINDS}
                onChange={(k) => {
                  setKind(k as Kind);
                  setSpec(START[k as Kind]);
                }}
              />
            </Form.Item>
            <Form.Item label="In">
              <Select
                aria-label="Environment of the trigger"
                className="field-xl"
                value={environment}
                onChange={setEnvironment}
                options={environments.map((e) => ({ value: e.name, label: e.name }))}
              />
            </Form.Item>
          </>
        )}
        {kind === 'clock' && <ClockFields spec={spec} set={set} />}
        {kind === 'file' && <FileFields spec={spec} set={set} />}
        {kind === 'flow' && <FlowFields flowId={flowId} spec={spec} set={set} />}
        {kind === 'http' && <CallerFields flowId={flowId} spec={spec} set={set} />}
        {kind === 'queue' && <QueueFields environment={environment} spec={spec} set={set} />}
        {!['file', 'http', 'queue'].includes(kind) && (
          <Form.Item label="While one runs">
            <Radio.Group
              value={spec.overlap ?? 'wait'}
              onChange={(e) => set({ overlap: e.target.value as TriggerSpec['overlap'] })}
              options={[
                { value: 'wait', label: 'start when it has ended' },
                { value: 'skip', label: 'leave it out' },
                { value: 'beside', label: 'start beside it' },
              ]}
            />
          </Form.Item>
        )}
      </Form>
    </Modal>
  );
}

type Fields = { spec: TriggerSpec; set: (part: Partial<TriggerSpec>) => void };

function ClockFields({ spec, set }: Fields) {
  const wall = spec.everyMinutes === undefined;
  const asked = useDeferredValue(JSON.stringify(spec));
  const times = useQuery({
    queryKey: ['times', asked],
    queryFn: ({ signal }) => api.post<Times>('/triggers/times', JSON.parse(asked), signal),
    retry: false,
  });
  const days = useQuery({
    queryKey: ['working-days', 'all'],
    queryFn: () => api.get<Page<WorkingDays>>('/working-days?size=500'),
  });
  return (
    <>
      <Form.Item label="Times">
        <Radio.Group
          value={wall}
          onChange={(e) =>
            set(
              e.target.value
                ? { cron: '30 2 * * mon-fri', everyMinutes: undefined }
                : { cron: undefined, everyMinutes: 15 },
            )
          }
          options={[
            { value: true, label: 'by a cron expression' },
            { value: false, label: 'every so many minutes' },
          ]}
        />
      </Form.Item>
      {wall ? (
        <Form.Item
          label="Cron"
          extra="Minute, hour, day of month, month, day of week: 30 2 * * mon-fri is Monday to Friday at 02:30."
        >
          <Input
            autoFocus
            className="mono field-3xl"
            aria-label="Cron"
            value={spec.cron}
            onChange={(e) => set({ cron: e.target.value })}
          />
        </Form.Item>
      ) : (
        <Form.Item label="Every">
          <InputNumber
            aria-label="Minutes"
            min={1}
            max={10_080}
            precision={0}
            value={spec.everyMinutes}
            suffix="minutes"
            className="field-l"
            onChange={(v) => v !== null && set({ everyMinutes: v })}
          />
        </Form.Item>
      )}
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
      <Form.Item label="Days">
        <span className="row wraps">
          <Select
            aria-label="Working days"
            className="field-2xl"
            allowClear
            placeholder="every day"
            value={spec.days}
            onChange={(name?: string) => set({ days: name })}
            options={days.data?.items.map((d) => ({ value: d.name, label: d.name }))}
          />
          {spec.days && (
            <Checkbox checked={spec.postponed} onChange={(e) => set({ postponed: e.target.checked })}>
              what falls on a day off comes at the next opening
            </Checkbox>
          )}
        </span>
      </Form.Item>
      <Form.Item label="When missed">
        <Checkbox checked={spec.missed} onChange={(e) => set({ missed: e.target.checked })}>
          once, as soon as a server runs again
        </Checkbox>
      </Form.Item>
      <Form.Item label="Next">
        {times.error ? (
          <span className="bad">{times.error.message}</span>
        ) : (
          <>
            <b>{times.data?.words}</b>
            {times.data?.next.map((at) => (
              <div key={at} className="mono">
                {new Date(at).toLocaleString('en-CA', {
                  timeZone: spec.zone ?? 'UTC',
                  weekday: 'short',
                  year: 'numeric',
                  month: '2-digit',
                  day: '2-digit',
                  hour: '2-digit',
                  minute: '2-digit',
                  hour12: false,
                  timeZoneName: 'short',
                })}
              </div>
            ))}
          </>
        )}
      </Form.Item>
    </>
  );
}

function FileFields({ spec, set }: Fields) {
  const datasets = useQuery({
    queryKey: ['datasets', 'folders'],
    queryFn: () => api.get<Page<Dataset>>('/datasets?size=500'),
  });
  const folders = datasets.data?.items.filter((d) => d.kind === 'folder') ?? [];
  return (
    <>
      <Form.Item
        label="Folder"
        extra="A dataset that is a folder. Files are read like the dataset the flow reads."
      >
        <Select
          aria-label="Folder"
          className="field-3xl"
          value={spec.folder}
          onChange={(folder) => set({ folder })}
          notFoundContent="No dataset is a folder yet."
          options={folders.map((d) => ({ value: d.name, label: d.name }))}
        />
      </Form.Item>
      <Form.Item label="Names like" extra="As in loans-*.csv; every file where nothing is said.">
        <Input
          className="mono field-2xl"
          aria-label="Names like"
          value={spec.pattern}
          onChange={(e) => set({ pattern: e.target.value || undefined })}
        />
      </Form.Item>
      <Form.Item
        label="Complete when"
        extra="Its size and time have rested, or a second file of its name with this ending is there."
      >
        <span className="row">
          <InputNumber
            aria-label="Seconds at rest"
            min={1}
            max={3_600}
            disabled={!!spec.marker}
            value={spec.restSeconds ?? 10}
            suffix="seconds at rest"
            className="field-2xl"
            onChange={(v) => v !== null && set({ restSeconds: v })}
          />
          <span className="dim">or marker</span>
          <Input
            className="mono field-m"
            aria-label="Marker"
            placeholder=".done"
            value={spec.marker}
            onChange={(e) => set({ marker: e.target.value || undefined })}
          />
        </span>
      </Form.Item>
      <Form.Item label="The same again">
        <Checkbox checked={spec.again} onChange={(e) => set({ again: e.target.checked })}>
          work on a file whose content came before; else it is moved to “same”
        </Checkbox>
      </Form.Item>
    </>
  );
}

function FlowFields({ flowId, spec, set }: Fields & { flowId: string }) {
  const flows = useQuery({
    queryKey: ['flows', 'all'],
    queryFn: () => api.get<Page<FlowSummary>>('/flows?size=500&sort=name'),
  });
  return (
    <>
      <Form.Item
        label="After"
        extra="Where it wrote the dataset this flow reads, exactly what it wrote is read."
      >
        <Select
          showSearch
          aria-label="After flow"
          className="field-3xl"
          value={spec.after}
          onChange={(after) => set({ after })}
          optionFilterProp="label"
          options={flows.data?.items
            .filter((f) => String(f.id) !== flowId)
            .map((f) => ({ value: f.id, label: f.name }))}
        />
      </Form.Item>
      <Form.Item label="Only">
        <Checkbox checked={spec.onlyDone} onChange={(e) => set({ onlyDone: e.target.checked })}>
          when every record of it is done or left out
        </Checkbox>
      </Form.Item>
    </>
  );
}
