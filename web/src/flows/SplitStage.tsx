import { Form, InputNumber, Segmented, Select, Switch } from 'antd';
import type { SplitStage as Split, Gather } from '../api/flow';
import { freeVariable } from '../api/outline';
import type { PaneProps } from './panes';
import { SettingsPane } from './SettingsPane';
import { VariableName } from './VariableName';
import { withVariable } from './variables';

/** The items of a record: which they are, how many at once, and what becomes of what they made. */
export function SplitStage({ file, stage, number, preview, onChange, onFile, onRemove }: PaneProps<Split>) {
  const repeated = (preview?.sources ?? []).flatMap((group) => group.fields.filter((field) => field.repeats));
  const gather = (part: Partial<Gather>) =>
    stage.gather && onChange({ ...stage, gather: { ...stage.gather, ...part } });
  return (
    <SettingsPane
      title={`${number} · Split`}
      says="its stages run for each item, several at once"
      onRemove={onRemove}
      foot={
        stage.stages.length === 0 && (
          <p className="dim pad-sides-l">
            With the line “for each ${stage.item}” chosen, Add a stage puts one into it.
          </p>
        )
      }
    >
      <Form.Item label="Its items are" extra="The field that repeats: $loan/line, $reply/crate.">
        <Select
          aria-label="Items"
          showSearch
          className="mono field-3xl"
          placeholder="a repeated field"
          value={stage.over}
          onChange={(over: string) => onChange({ ...stage, over })}
          options={repeated.map((field) => ({ value: field.wire }))}
        />
      </Form.Item>
      <Form.Item label="Each of them is">
        <VariableName
          label="Item variable"
          value={stage.item ?? ''}
          onRename={(to) => onFile(withVariable(file, stage.id, to, 'item'))}
        />
      </Form.Item>
      <Form.Item label="At once" extra="How many items of one record are processed at the same time.">
        <InputNumber
          aria-label="At once"
          min={1}
          max={64}
          value={stage.atOnce ?? 4}
          onChange={(atOnce) => atOnce && onChange({ ...stage, atOnce })}
        />
      </Form.Item>
      <Form.Item
        label="Gather"
        extra={
          stage.gather
            ? 'An item for each, in their order: its position, its end, and the variables it made.'
            : 'Nothing leaves the items but the rows they write.'
        }
      >
        <span className="row">
          <Switch
            aria-label="Gather what items made"
            checked={stage.gather !== undefined}
            onChange={(on) =>
              onChange({
                ...stage,
                gather: on ? { as: freeVariable(file, 'items'), whenSomeFail: 'reject' } : undefined,
              })
            }
          />
          {stage.gather && (
            <VariableName
              label="Gathered variable"
              value={stage.gather.as}
              onRename={(to) => onFile(withVariable(file, stage.id, to, 'gather'))}
            />
          )}
        </span>
      </Form.Item>
      {stage.gather && (
        <Form.Item
          label="When some fail"
          extra="An item in doubt always stops the record; an item that is left out is not a failure."
        >
          <Segmented
            value={stage.gather.whenSomeFail}
            onChange={(rule) => gather({ whenSomeFail: rule as Gather['whenSomeFail'] })}
            options={[
              { value: 'reject', label: 'reject, leave what was done' },
              { value: 'undo', label: 'take it back and reject' },
              { value: 'go-on', label: 'go on' },
            ]}
          />
        </Form.Item>
      )}
    </SettingsPane>
  );
}
