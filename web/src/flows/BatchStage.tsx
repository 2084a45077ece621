import { Form, InputNumber, Switch } from 'antd';
import type { BatchStage as Batch } from '../api/flow';
import { freeVariable } from '../api/outline';
import { ExpressionField } from './ExpressionField';
import type { PaneProps } from './panes';
import { SettingsPane } from './SettingsPane';
import { useTry } from './useStageTools';
import { VariableName } from './VariableName';
import { withVariable } from './variables';

/** Records that go together: how many, which, how long they wait for each other, and what a refusal means. */
export function BatchStage({ file, stage, number, onChange, onFile, onRemove }: PaneProps<Batch>) {
  const onTry = useTry();
  const { verdict } = stage;
  return (
    <SettingsPane
      title={`${number} · Batch`}
      says="its stages run once for several records"
      onRemove={onRemove}
      foot={
        stage.stages.length === 0 && (
          <p className="dim pad-sides-l">
            With the line “together as ${stage.batch}” chosen, Add a stage puts one into it.
          </p>
        )
      }
    >
      <Form.Item label="At most" extra="A batch closes when it is full, or when nothing more can reach it.">
        <span className="row">
          <InputNumber
            aria-label="Records"
            min={1}
            max={1000}
            value={stage.most ?? 100}
            onChange={(most) => most && onChange({ ...stage, most })}
          />
          <span className="dim">records, in a message of at most</span>
          <InputNumber
            aria-label="Bytes"
            min={1}
            placeholder="any size"
            className="field-m"
            value={stage.mostBytes}
            onChange={(bytes) => onChange({ ...stage, mostBytes: bytes ?? undefined })}
          />
          <span className="dim">bytes</span>
        </span>
      </Form.Item>
      <Form.Item label="Waits at most" extra="For company, from the first record on.">
        <span className="row">
          <InputNumber
            aria-label="Seconds"
            min={0}
            max={3600}
            value={(stage.waitMillis ?? 5000) / 1000}
            onChange={(s) => s !== null && onChange({ ...stage, waitMillis: Math.round(s * 1000) })}
          />
          <span className="dim">seconds</span>
        </span>
      </Form.Item>
      <Form.Item label="Only together with" extra="Records with the same value go together; all when empty.">
        <ExpressionField
          label="Only together with"
          value={stage.by}
          placeholder="$loan/borrower"
          onTry={onTry}
          onChange={(by) => onChange({ ...stage, by })}
        />
      </Form.Item>
      <Form.Item label="Together they are" extra="An item for each record, which holds its variables.">
        <VariableName
          label="Batch variable"
          value={stage.batch ?? ''}
          onRename={(to) => onFile(withVariable(file, stage.id, to, 'batch'))}
        />
      </Form.Item>
      <Form.Item
        label="Refused as a whole"
        extra="A batch that fails with a fault is sent again in halves, down to the record at fault."
      >
        <span className="row">
          <Switch
            aria-label="Halve it"
            checked={stage.halve ?? false}
            onChange={(halve) => onChange({ ...stage, halve: halve || undefined })}
          />
          <span className="dim">halve it</span>
        </span>
      </Form.Item>
      <Form.Item
        label="Verdict"
        extra={
          verdict
            ? 'What the reply says of each record stands in the line below its stages.'
            : 'Every record goes on when the stages are done.'
        }
      >
        <span className="row">
          <Switch
            aria-label="The reply answers for each record"
            checked={verdict !== undefined}
            onChange={(on) =>
              onChange({
                ...stage,
                verdict: on ? { as: freeVariable(file, 'verdict'), silent: 'in-doubt' } : undefined,
              })
            }
          />
          {verdict && (
            <VariableName
              label="Verdict variable"
              value={verdict.as ?? ''}
              onRename={(to) => onFile(withVariable(file, stage.id, to, 'verdict'))}
            />
          )}
        </span>
      </Form.Item>
    </SettingsPane>
  );
}
