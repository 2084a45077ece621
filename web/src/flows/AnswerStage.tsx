import { Button, Input, Segmented } from 'antd';
import type { AnswerStage as Answer } from '../api/flow';
import css from './flow.module.css';
import { NamedTexts } from './NamedTexts';
import type { PaneProps } from './panes';
import { RecordSheet } from './RecordSheet';

/** What a caller of the flow gets: its status and its content. */
export function AnswerStage({
  stage,
  number,
  onChange,
  onFile: _,
  onRemove,
  onVariable: __,
  ...rest
}: PaneProps<Answer>) {
  return (
    <div className={css.stage}>
      <div className={css.stageHead}>
        <h2>{number} · Answer</h2>
        <span className="dim">status</span>
        <Input
          size="small"
          className="mono field-xl"
          aria-label="Status"
          placeholder="200"
          key={stage.status}
          defaultValue={stage.status}
          onBlur={(e) =>
            e.target.value !== (stage.status ?? '') &&
            onChange({ ...stage, status: e.target.value || undefined })
          }
        />
        <Segmented<'json' | 'xml'>
          size="small"
          value={stage.document ?? 'json'}
          options={[
            { value: 'json', label: 'JSON' },
            { value: 'xml', label: 'XML' },
          ]}
          onChange={(document) => onChange({ ...stage, document })}
        />
        <Button
          size="small"
          onClick={() => onChange({ ...stage, headers: [...(stage.headers ?? []), { name: '', value: '' }] })}
        >
          Add a header
        </Button>
        <span className="grow" />
        <Button size="small" onClick={onRemove}>
          Remove
        </Button>
      </div>
      <NamedTexts
        one="header"
        example="X-Loan"
        all={stage.headers ?? []}
        onChange={(headers) => onChange({ ...stage, headers })}
      />
      <RecordSheet {...rest} stage={stage} onChange={onChange} heading="answer" />
    </div>
  );
}
