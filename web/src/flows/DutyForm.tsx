import { Checkbox, Form, Input, InputNumber, Modal, Segmented } from 'antd';
import { useState } from 'react';
import type { FlowFile } from '../api/flow';

/** What whoever is on duty should know of a flow, and when it stops by itself. */
export function DutyForm({
  file,
  onChange,
  onClose,
}: {
  file: FlowFile;
  onChange: (file: FlowFile) => void;
  onClose: () => void;
}) {
  const [runbook, setRunbook] = useState(file.runbook ?? '');
  const [brake, setBrake] = useState(file.brake);
  const share = brake?.percent !== undefined;
  const save = () => {
    onChange({ ...file, runbook: runbook.trim() || undefined, brake });
    onClose();
  };
  return (
    <Modal open title="Runbook and brake" okText="Save" onOk={save} onCancel={onClose} width={620}>
      <Form colon={false} layout="vertical" size="small">
        <Form.Item
          label="Runbook"
          extra="What to know and do when it goes wrong: it stands in every mail about this flow."
        >
          <Input.TextArea
            autoFocus
            rows={5}
            aria-label="Runbook"
            placeholder="Call Vanline’s desk before seven. Crates that are in doubt: look at their portal."
            value={runbook}
            onChange={(e) => setRunbook(e.target.value)}
          />
        </Form.Item>
        <Form.Item label="Brake" extra="Rows written so far take no place; it can be resumed.">
          <span className="row wraps">
            <Checkbox
              checked={brake !== undefined}
              onChange={(e) => setBrake(e.target.checked ? { rejected: 20, last: 100 } : undefined)}
            >
              a run stops by itself when
            </Checkbox>
            {brake && (
              <>
                <InputNumber
                  aria-label="Rejected"
                  min={1}
                  precision={0}
                  className="field-s"
                  value={share ? brake.percent : brake.rejected}
                  onChange={(v) => v !== null && setBrake({ ...brake, [share ? 'percent' : 'rejected']: v })}
                />
                <Segmented
                  value={share ? 'percent' : 'records'}
                  options={['records', 'percent']}
                  onChange={(v) =>
                    setBrake({ last: brake.last, ...(v === 'percent' ? { percent: 20 } : { rejected: 20 }) })
                  }
                />
                <span>of the last</span>
                <InputNumber
                  aria-label="Of the last"
                  min={1}
                  max={100_000}
                  precision={0}
                  className="field-s"
                  value={brake.last}
                  onChange={(v) => v !== null && setBrake({ ...brake, last: v })}
                />
                <span>are rejected</span>
              </>
            )}
          </span>
        </Form.Item>
      </Form>
    </Modal>
  );
}
