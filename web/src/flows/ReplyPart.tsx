import { Button, Input } from 'antd';
import { type CallStage, freeId } from '../api/flow';
import type { Preview } from '../api/types';
import { MessageSheet } from '../shared/MessageSheet';
import { useContractId } from './useChoices';

/** The reply: its name in the flow, when it counts as failed, and its fields. */
export function ReplyPart({ stage, preview, onChange }: { stage: CallStage; preview: Preview | undefined; onChange: (stage: CallStage) => void }) {
  const contract = useContractId(stage);
  const conditions = stage.delivery.failedWhen;
  const set = (failedWhen: CallStage['delivery']['failedWhen']) => onChange({ ...stage, delivery: { ...stage.delivery, failedWhen } });
  return (
    <div style={{ display: 'flex', flexDirection: 'column', minHeight: 0, flex: 1 }}>
      <div style={{ padding: '10px 14px', borderBottom: '1px solid var(--line)' }}>
        <label className="row">
          Later stages know the reply as <span className="mono">$</span>
          <Input size="small" className="mono" style={{ width: 160 }} defaultValue={stage.as} key={stage.as} aria-label="Reply variable"
            onBlur={(e) => /^[\p{L}_][\p{L}\p{N}_.-]*$/u.test(e.target.value) && e.target.value !== stage.as && onChange({ ...stage, as: e.target.value })} />
        </label>
        <h3 style={{ fontSize: 13, margin: '12px 0 4px' }}>Counts as failed when …</h3>
        {conditions.map((c) => (
          <div key={c.id} className="row" style={{ marginBottom: 4 }}>
            <Input size="small" className="mono" aria-label="Condition" defaultValue={c.expression} placeholder={`$${stage.as}/status = 'suspended'`} style={{ flex: 3 }}
              onBlur={(e) => e.target.value !== c.expression && set(conditions.map((o) => (o.id === c.id ? { ...o, expression: e.target.value } : o)))} />
            <Input size="small" aria-label="Message" defaultValue={c.message} placeholder="what it means" style={{ flex: 2 }}
              onBlur={(e) => e.target.value !== c.message && set(conditions.map((o) => (o.id === c.id ? { ...o, message: e.target.value } : o)))} />
            <Button size="small" type="text" danger onClick={() => set(conditions.filter((o) => o.id !== c.id))}>Remove</Button>
            {preview?.problems.filter((p) => p.fillId === c.id).map((p) => <span key={p.message} className="bad">{p.message}</span>)}
          </div>
        ))}
        <Button size="small" onClick={() => set([...conditions, { id: freeId(conditions, 'c'), expression: `$${stage.as}/… = ''`, message: '' }])}>Add a condition</Button>
      </div>
      {contract !== undefined && stage.operation && <MessageSheet contract={contract} at={{ service: stage.service, port: stage.port, operation: stage.operation, message: 'reply' }} />}
    </div>
  );
}
