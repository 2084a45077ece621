import { useQuery } from '@tanstack/react-query';
import { App, Button, Dropdown, Input, InputNumber, Modal, Select } from 'antd';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../api/client';
import type { BenchCall, Dataset, FlowSummary, Page, Simulator } from '../api/types';
import { Trouble } from '../shared/parts';

/** What a call that was answered is good for later: a dataset, the sample of a flow, a rule of a simulator. */
export function KeepCall({ call }: { call: BenchCall }) {
  const navigate = useNavigate();
  const { message, modal } = App.useApp();
  const [wanted, setWanted] = useState<'dataset' | 'flow'>();
  const teach = async () => {
    try {
      const its = await api.post<Simulator>('/simulator-lessons', { call: call.id });
      modal.confirm({
        title: `${its.name} answers so from now on`,
        content: 'Asked the same, the simulator answers as the service did.',
        okText: 'See its rules',
        cancelText: 'Stay here',
        onOk: () => navigate(`/simulators/${its.id}`),
      });
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <>
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            { key: 'dataset', label: 'Keep the reply as a dataset …', disabled: !!call.failure },
            { key: 'flow', label: 'Keep as sample reply of a flow …' },
            { key: 'teach', label: 'Teach the simulator' },
          ],
          onClick: ({ key }) => (key === 'teach' ? void teach() : setWanted(key as 'dataset' | 'flow')),
        }}
      >
        <Button size="small">Keep ▾</Button>
      </Dropdown>
      {wanted === 'dataset' && <AsDataset call={call} onClose={() => setWanted(undefined)} />}
      {wanted === 'flow' && <AsSample call={call} onClose={() => setWanted(undefined)} />}
    </>
  );
}

function AsDataset({ call, onClose }: { call: BenchCall; onClose: () => void }) {
  const navigate = useNavigate();
  const [name, setName] = useState(call.name || 'reply');
  const [error, setError] = useState<unknown>();
  const keep = async () => {
    try {
      navigate(`/datasets/${(await api.post<Dataset>('/datasets/replies', { call: call.id, name })).id}`);
    } catch (e) {
      setError(e);
    }
  };
  return (
    <Modal
      open
      title="Keep the reply as a dataset"
      okText="Keep"
      okButtonProps={{ disabled: !name.trim() }}
      onOk={() => void keep()}
      onCancel={onClose}
    >
      <p className="dim">A row for each repeated field of the reply, or one row; a column for each value.</p>
      <Input
        autoFocus
        aria-label="Dataset name"
        value={name}
        onChange={(e) => setName(e.target.value)}
        onPressEnter={() => void keep()}
      />
      <Trouble error={error} />
    </Modal>
  );
}

function AsSample({ call, onClose }: { call: BenchCall; onClose: () => void }) {
  const { message } = App.useApp();
  const [flow, setFlow] = useState<number>();
  const [record, setRecord] = useState(1);
  const [error, setError] = useState<unknown>();
  const flows = useQuery({
    queryKey: ['flows', 'for-samples'],
    queryFn: () => api.get<Page<FlowSummary>>('/flows?size=500'),
  });
  const keep = async () => {
    try {
      await api.post(`/flows/${flow}/kept-replies`, { call: call.id, record });
      void message.success('Kept: later stages of the flow can be worked on with it');
      onClose();
    } catch (e) {
      setError(e);
    }
  };
  return (
    <Modal
      open
      title="Keep as sample reply of a flow"
      okText="Keep"
      okButtonProps={{ disabled: !flow }}
      onOk={() => void keep()}
      onCancel={onClose}
    >
      <div className="row">
        <Select
          showSearch={{ optionFilterProp: 'label' }}
          aria-label="Flow"
          className="fills"
          placeholder="flow that calls this operation"
          value={flow}
          onChange={setFlow}
          options={flows.data?.items.map((f) => ({ value: f.id, label: f.name }))}
        />
        for record{' '}
        <InputNumber
          min={1}
          max={50}
          aria-label="Record"
          className="field-s"
          value={record}
          onChange={(v) => setRecord(v ?? 1)}
        />
      </div>
      <Trouble error={error} />
    </Modal>
  );
}
