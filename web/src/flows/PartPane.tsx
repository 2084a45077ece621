import { Button, Checkbox, Form, Input } from 'antd';
import type { AfterLast } from '../api/flow';
import type { Part } from '../api/outline';
import { ExpressionField } from './ExpressionField';
import css from './flow.module.css';
import type { PaneProps } from './panes';
import { useTry } from './useStageTools';

const SAYS: Record<Part, string> = {
  before: 'what these stages make is in reach of all records; when one fails, there are none',
  each: 'these stages run for every record',
  after: 'these stages run once, when every record has an end',
};

const WHEN: { value: NonNullable<AfterLast['when']>[number]; label: string }[] = [
  { value: 'done', label: 'with records' },
  { value: 'empty', label: 'without any record' },
  { value: 'failed', label: 'that failed or was stopped' },
  { value: 'cancelled', label: 'that was cancelled' },
];

/** A part of the run: what is run once before or after, and what is added up for it. */
export function PartPane({ file, part, onFile }: Pick<PaneProps<never>, 'file' | 'onFile'> & { part: Part }) {
  const onTry = useTry();
  const { after } = file;
  const change = (its: Partial<AfterLast>) => after && onFile({ ...file, after: { ...after, ...its } });
  const sums = after?.sums ?? [];
  const sum = (at: number, its: Partial<(typeof sums)[number]> | undefined) =>
    change({
      sums: its ? sums.map((s, i) => (i === at ? { ...s, ...its } : s)) : sums.filter((_, i) => i !== at),
    });
  return (
    <div className={css.stage}>
      <div className={css.stageHead}>
        <h2>{{ before: 'Before the first', each: 'For each record', after: 'After the last' }[part]}</h2>
        <span className="dim clip grow">{SAYS[part]}</span>
        {part === 'after' && (
          <Button size="small" onClick={() => onFile({ ...file, after: undefined })}>
            Remove
          </Button>
        )}
      </div>
      {part === 'after' && after && (
        <Form
          colon={false}
          layout="horizontal"
          labelCol={{ flex: '150px' }}
          labelAlign="left"
          size="small"
          className="pad-over"
        >
          <Form.Item label="After a run">
            <Checkbox.Group
              value={after.when ?? ['done', 'empty']}
              onChange={(when) => change({ when: when as AfterLast['when'] })}
              options={WHEN}
            />
          </Form.Item>
          <Form.Item
            label="Added up"
            extra={
              'A number of each record, apart for its end: $run/sums/value/done. ' +
              'How many records there were is known anyway: $run/done, $run/rejected.'
            }
          >
            {sums.map((its, at) => (
              <div key={at} className="row gap-above-s">
                <Input
                  aria-label="Sum"
                  className="mono field-m"
                  defaultValue={its.name}
                  onBlur={(e) => e.target.value !== its.name && sum(at, { name: e.target.value })}
                />
                <ExpressionField
                  label="Sum of"
                  value={its.of}
                  placeholder="number($loan/insured_value)"
                  onTry={onTry}
                  onChange={(of) => sum(at, { of: of ?? '' })}
                />
                <Button size="small" type="text" onClick={() => sum(at, undefined)}>
                  Remove
                </Button>
              </div>
            ))}
            <Button
              size="small"
              className="gap-above-s"
              onClick={() => change({ sums: [...sums, { name: `sum${sums.length + 1}`, of: '' }] })}
            >
              Add a sum
            </Button>
          </Form.Item>
        </Form>
      )}
    </div>
  );
}
