import { useQueryClient } from '@tanstack/react-query';
import { Checkbox, Form, Input, Modal } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { WorkingDays } from '../api/types';
import { NamedList } from '../shared/NamedList';
import { Trouble } from '../shared/parts';

const SAYS = {
  of: 'working-days',
  one: 'working days',
  intro:
    'Days off and cut-offs that clocks keep to: what falls on them is left out, or comes at the next opening.',
  none: 'No working days yet',
  whereFrom: 'Weekends, holidays, and the hour after which a partner takes nothing any more.',
  removing: 'Only what no trigger keeps to can be removed.',
};
const WEEK = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

/** Every set of working days. */
export function WorkingDaysList() {
  const client = useQueryClient();
  const [open, setOpen] = useState<WorkingDays | 'new'>();
  return (
    <>
      <NamedList<WorkingDays>
        says={SAYS}
        onAdd={() => setOpen('new')}
        name={(row) => (
          <button type="button" className="linkish" onClick={() => setOpen(row)}>
            {row.name}
          </button>
        )}
        columns={[
          {
            title: 'Off',
            render: (_, row) =>
              [
                ...row.weekdaysOff.map((d) => WEEK[d - 1]),
                ...(row.datesOff.length > 0 ? [`${row.datesOff.length} single days`] : []),
              ].join(', ') || <span className="faint">no day</span>,
          },
          {
            title: 'Open',
            width: 140,
            render: (_, row) => (
              <span className="mono">
                {row.opens} – {row.cutOff ?? '24:00'}
              </span>
            ),
          },
        ]}
      />
      {open && (
        <WorkingDaysForm
          days={open === 'new' ? undefined : open}
          onClose={() => setOpen(undefined)}
          onSaved={() => {
            setOpen(undefined);
            void client.invalidateQueries({ queryKey: ['working-days'] });
          }}
        />
      )}
    </>
  );
}

function WorkingDaysForm({
  days,
  onClose,
  onSaved,
}: {
  /** What is changed; new ones without. */
  days?: WorkingDays;
  onClose: () => void;
  onSaved: () => void;
}) {
  const [its, setIts] = useState({
    name: days?.name ?? '',
    weekdaysOff: days?.weekdaysOff ?? [6, 7],
    datesOff: days?.datesOff.join('\n') ?? '',
    opens: days?.opens ?? '00:00',
    cutOff: days?.cutOff ?? '',
  });
  const [error, setError] = useState<unknown>();
  const save = async () => {
    setError(undefined);
    const body = { ...its, datesOff: its.datesOff.split(/[\s,;]+/).filter(Boolean) };
    try {
      if (days) await api.put(`/working-days/${days.id}`, body, { 'If-Match': `"${days.version}"` });
      else await api.post('/working-days', body);
      onSaved();
    } catch (e) {
      setError(e);
    }
  };
  return (
    <Modal
      open
      width={560}
      title={days ? `Working days ${days.name}` : 'Add working days'}
      okText={days ? 'Save' : 'Add'}
      okButtonProps={{ disabled: !its.name.trim() }}
      onOk={() => void save()}
      onCancel={onClose}
    >
      <Trouble error={error} />
      <Form colon={false} labelCol={{ flex: '110px' }} labelAlign="left" size="small" className="gap-above">
        {!days && (
          <Form.Item label="Name">
            <Input
              autoFocus
              aria-label="Name"
              placeholder="Halewick"
              value={its.name}
              onChange={(e) => setIts({ ...its, name: e.target.value })}
            />
          </Form.Item>
        )}
        <Form.Item label="Every week off">
          <Checkbox.Group
            value={its.weekdaysOff}
            onChange={(weekdaysOff) => setIts({ ...its, weekdaysOff })}
            options={WEEK.map((label, i) => ({ label, value: i + 1 }))}
          />
        </Form.Item>
        <Form.Item label="Days off" extra="One a line, as 2026-12-25.">
          <Input.TextArea
            rows={4}
            className="mono"
            aria-label="Days off"
            value={its.datesOff}
            onChange={(e) => setIts({ ...its, datesOff: e.target.value })}
          />
        </Form.Item>
        <Form.Item label="Opens">
          <span className="row">
            <Input
              className="mono field-s"
              aria-label="Opens"
              value={its.opens}
              onChange={(e) => setIts({ ...its, opens: e.target.value })}
            />
            <span className="dim">cut-off</span>
            <Input
              className="mono field-s"
              aria-label="Cut-off"
              placeholder="24:00"
              value={its.cutOff}
              onChange={(e) => setIts({ ...its, cutOff: e.target.value })}
            />
          </span>
        </Form.Item>
      </Form>
    </Modal>
  );
}
