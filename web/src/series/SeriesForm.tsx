import { Checkbox, Form, Input, InputNumber, Modal, Radio } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { Series, SeriesText } from '../api/types';
import { Trouble } from '../shared/parts';

/** Returns a number as the pattern writes it. */
function written(pattern: string | undefined, number: number, year: number): string {
  if (!pattern) return String(number);
  return pattern.replace(/\{(number|year)(?::(\d{1,2}))?\}/g, (_, what: string, width?: string) => {
    const digits = String(what === 'year' ? year : number);
    if (what === 'year' && width && Number(width) < digits.length) return digits.slice(-Number(width));
    return digits.padStart(Number(width ?? 0), '0');
  });
}

/** What a series is: whether it may have gaps, where it starts, how its numbers are written. */
export function SeriesForm({
  series,
  onClose,
  onSaved,
}: {
  /** The series that is changed; a new one without. */
  series?: Series;
  onClose: () => void;
  onSaved: () => void;
}) {
  const [its, setIts] = useState<SeriesText>(
    series ?? { name: '', gapless: true, start: 1, pattern: '{year}-{number:5}', yearly: true },
  );
  const [error, setError] = useState<unknown>();
  const drawn = (series?.positions.length ?? 0) > 0;
  const set = (part: Partial<SeriesText>) => setIts({ ...its, ...part });
  const save = async () => {
    setError(undefined);
    try {
      if (series) await api.put(`/series/${series.id}`, its, { 'If-Match': `"${series.version}"` });
      else await api.post('/series', its);
      onSaved();
    } catch (e) {
      setError(e);
    }
  };
  const start = its.start ?? 1;
  const year = new Date().getFullYear();
  return (
    <Modal
      open
      width={620}
      title={series ? `Series ${series.name}` : 'Add a series'}
      okText={series ? 'Save' : 'Add'}
      onOk={() => void save()}
      onCancel={onClose}
      okButtonProps={{ disabled: !its.name?.trim() }}
    >
      <Trouble error={error} />
      <Form
        colon={false}
        layout="horizontal"
        labelCol={{ flex: '110px' }}
        labelAlign="left"
        size="small"
        className="gap-above"
      >
        {!series && (
          <Form.Item label="Name">
            <Input
              autoFocus
              aria-label="Name"
              placeholder="clearance papers"
              value={its.name}
              onChange={(e) => set({ name: e.target.value })}
            />
          </Form.Item>
        )}
        <Form.Item
          label="Numbers"
          extra={
            its.gapless
              ? 'A number whose record came to nothing is given back and drawn again: none is missing in the end.'
              : 'A number is never drawn twice; some may be missing.'
          }
        >
          <Radio.Group
            disabled={drawn}
            value={its.gapless}
            onChange={(e) => set({ gapless: e.target.value as boolean })}
            options={[
              { value: true, label: 'without gaps' },
              { value: false, label: 'only increasing, faster' },
            ]}
          />
        </Form.Item>
        <Form.Item label="Start">
          <span className="row">
            <InputNumber
              aria-label="Start"
              min={0}
              precision={0}
              value={start}
              onChange={(v) => set({ start: v ?? 1 })}
            />
            <Checkbox
              disabled={drawn}
              checked={its.yearly}
              onChange={(e) => set({ yearly: e.target.checked })}
            >
              begins anew each year
            </Checkbox>
          </span>
        </Form.Item>
        <Form.Item
          label="Written as"
          extra={
            <>
              <span className="mono">{'{number:5}'}</span> has five digits at least,{' '}
              <span className="mono">{'{year}'}</span> four, <span className="mono">{'{year:2}'}</span> two:{' '}
              <b className="mono">
                {written(its.pattern, start, year)}, {written(its.pattern, start + 1, year)} …
              </b>
            </>
          }
        >
          <Input
            aria-label="Pattern"
            className="mono"
            placeholder="the number alone"
            value={its.pattern ?? ''}
            onChange={(e) => set({ pattern: e.target.value || undefined })}
          />
        </Form.Item>
        <Form.Item label="Year of" extra="The zone whose calendar says which year it is.">
          <Input
            aria-label="Zone"
            className="field-xl"
            placeholder="UTC"
            value={its.zone ?? ''}
            onChange={(e) => set({ zone: e.target.value || undefined })}
          />
        </Form.Item>
      </Form>
    </Modal>
  );
}
