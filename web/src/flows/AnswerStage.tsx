import { Button, Input, Segmented } from 'antd';
import type { AnswerStage as Answer } from '../api/flow';
import css from './flow.module.css';
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
      <AnswerHeaders all={stage.headers ?? []} onChange={(headers) => onChange({ ...stage, headers })} />
      <RecordSheet {...rest} stage={stage} onChange={onChange} heading="answer" />
    </div>
  );
}

type Header = NonNullable<Answer['headers']>[number];

/** HTTP headers of its own: a name, and a path or expression each. */
function AnswerHeaders({ all, onChange }: { all: Header[]; onChange: (all: Header[]) => void }) {
  const change = (at: number, part: Partial<Header>) =>
    onChange(all.map((h, i) => (i === at ? { ...h, ...part } : h)));
  return all.map((h, i) => (
    // the place is all a header that is being typed has
    <div key={i} className="row gap-below-s">
      <span className="dim">header</span>
      <Input
        size="small"
        className="mono field-xl"
        aria-label={`Name of header ${i + 1}`}
        placeholder="X-Loan"
        defaultValue={h.name}
        onBlur={(e) => e.target.value !== h.name && change(i, { name: e.target.value })}
      />
      <Input
        size="small"
        className="mono grow"
        aria-label={`Value of header ${i + 1}`}
        placeholder="$input/loan_no"
        defaultValue={h.value}
        onBlur={(e) => e.target.value !== h.value && change(i, { value: e.target.value })}
      />
      <Button size="small" type="text" onClick={() => onChange(all.filter((_, o) => o !== i))}>
        Remove
      </Button>
    </div>
  ));
}
