import { Button, Checkbox, Form } from 'antd';
import type { AfterLast } from '../api/flow';
import type { Part } from '../api/outline';
import css from './flow.module.css';
import { NamedValues } from './NamedValues';
import type { PaneProps } from './panes';

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
  const { after } = file;
  const change = (its: Partial<AfterLast>) => after && onFile({ ...file, after: { ...after, ...its } });
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
            <NamedValues
              what="Sum"
              placeholder="number($loan/insured_value)"
              values={after.sums ?? []}
              onChange={(sums) => change({ sums })}
            />
          </Form.Item>
        </Form>
      )}
    </div>
  );
}
