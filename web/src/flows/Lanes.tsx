import { Button, Dropdown, Form, InputNumber, Select } from 'antd';
import type { FailureClass, FlowFile, Rule, Stage } from '../api/flow';
import { outlineLines, withLane, withRule, withStage } from '../api/outline';
import { AskOutcomes, fieldsUsed } from './AskOutcomes';
import { ExpressionField } from './ExpressionField';
import css from './flow.module.css';
import { ruleText } from './Outline';
import type { PaneProps } from './panes';
import { RecordSheet } from './RecordSheet';
import { mayBeUndone, newRule, newUndo, ruleActions } from './rules';
import { useTry } from './useStageTools';

const CLASSES: { value: FailureClass; label: string }[] = [
  { value: 'connection', label: 'no connection' },
  { value: 'timeout', label: 'time-out' },
  { value: 'http-status', label: 'HTTP status' },
  { value: 'fault', label: 'fault' },
  { value: 'condition', label: 'counts as failed' },
  { value: 'reply', label: 'reply not readable' },
  { value: 'mapping', label: 'mapping' },
  { value: 'validation', label: 'validation' },
  { value: 'write', label: 'row refused' },
  { value: 'internal', label: 'internal' },
];

/** A stage's failure lane below its pane: its rules in a line, and one more on a click. */
export function LaneStrip({
  file,
  stage,
  onFile,
  onChoose,
}: {
  file: FlowFile;
  stage: Stage;
  onFile: (file: FlowFile) => void;
  onChoose: (id: string) => void;
}) {
  const rules = stage.lane?.rules ?? [];
  const add = (then: Rule['then']) => {
    const rule = newRule(file, stage, then);
    onFile(withLane(file, stage.id, { rules: [...rules, rule] }));
    onChoose(rule.id);
  };
  if (stage.verb === 'Read' || stage.verb === 'Note') return null;
  const undo = () => {
    if (!mayBeUndone(file, stage)) return;
    const made = newUndo(file, stage);
    onFile(withStage(file, stage.id, (s) => ({ ...s, undo: [...(stage.undo ?? []), made] })));
    onChoose(made.id);
  };
  return (
    <div className={css.laneStrip} aria-label="When it fails">
      <span className="dim">When it fails</span>
      {rules.map((rule) => (
        <button key={rule.id} type="button" className="linkish bad clip" onClick={() => onChoose(rule.id)}>
          {ruleText(rule)}
        </button>
      ))}
      {rules.length === 0 && (
        <span className="dim">
          {file.lane ? 'the flow’s lane says what happens' : 'the record is rejected'}
        </span>
      )}
      <span className="grow" />
      {mayBeUndone(file, stage) && !stage.undo?.length && (
        <Button size="small" type="text" title="when its record is rejected later" onClick={undo}>
          Take it back
        </Button>
      )}
      <Dropdown
        trigger={['click']}
        menu={{
          items: ruleActions(stage).map((a) => ({ key: a.value, label: a.label })),
          onClick: ({ key }) => add(key as Rule['then']),
        }}
      >
        <Button size="small" type="text">
          Add a rule
        </Button>
      </Dropdown>
    </div>
  );
}

/** One rule of a failure lane: when it counts, and what it does. */
export function RulePane({
  rule,
  onFile,
  onChoose,
  ...rest
}: Omit<PaneProps<Stage>, 'stage' | 'onChange' | 'onVariable'> & {
  rule: Rule;
  onChoose: (id: string) => void;
}) {
  const { file } = rest;
  const onTry = useTry();
  const line = outlineLines(file).find((l) => l.kind === 'rule' && l.id === rule.id);
  const owner = line?.kind === 'rule' ? line.owner : undefined;
  const asks = rule.then === 'ask';
  const change = (part: Partial<Rule>) => onFile(withRule(file, rule.id, (r) => ({ ...r, ...part })));
  const remove = () => {
    onFile(withRule(file, rule.id, () => null));
    onChoose(owner?.id ?? file.stages[0].id);
  };
  return (
    <div className={css.stage}>
      <div className={css.stageHead}>
        <h2>
          When {owner ? `${owner.verb} ${'as' in owner ? `$${owner.as}` : ''}` : 'any stage'}{' '}
          {asks ? 'is in doubt' : 'fails'}
        </h2>
        <span className="dim clip grow">
          {asks
            ? 'asked when the record goes on after a crash, and when somebody asks on the run’s page'
            : 'the first rule that fits says what happens; what is in doubt no rule catches'}
        </span>
        <Button size="small" onClick={remove}>
          Remove
        </Button>
      </div>
      <Form
        colon={false}
        layout="horizontal"
        labelCol={{ flex: '150px' }}
        labelAlign="left"
        size="small"
        className="pad-over rigid"
      >
        {!asks && (
          <>
            <Form.Item label="Counts for" extra="All failures when none is named.">
              <Select
                mode="multiple"
                aria-label="Counts for"
                className="field-4xl"
                placeholder="every failure"
                value={rule.on ?? []}
                options={CLASSES}
                onChange={(on: FailureClass[]) => change({ on: on.length ? on : undefined })}
              />
            </Form.Item>
            <Form.Item label="And only when">
              <ExpressionField
                label="And only when"
                value={rule.when}
                placeholder="$failure/status = '503'"
                onTry={onTry}
                onChange={(when) => change({ when })}
              />
            </Form.Item>
          </>
        )}
        <Form.Item label="Then">
          <span className="row">
            <Select
              aria-label="Then"
              className="field-3xl"
              value={rule.then}
              options={ruleActions(owner)}
              onChange={(then) =>
                change({
                  then,
                  ...(then === 'again'
                    ? { times: rule.times ?? 2, backOffMillis: rule.backOffMillis ?? 200 }
                    : {}),
                })
              }
            />
            {rule.then === 'again' && (
              <>
                <InputNumber
                  aria-label="times"
                  min={1}
                  max={10}
                  value={rule.times ?? 2}
                  onChange={(times) => times && change({ times })}
                />{' '}
                times, first after{' '}
                <InputNumber
                  aria-label="pause"
                  min={0}
                  max={60_000}
                  suffix="ms"
                  className="field-m"
                  value={rule.backOffMillis ?? 200}
                  onChange={(backOffMillis) => backOffMillis !== null && change({ backOffMillis })}
                />
              </>
            )}
          </span>
        </Form.Item>
        {rule.then === 'again' && (
          <p className="dim under-label">
            Only what surely did not take effect is tried again; when that is over, the rules behind it are
            read.
          </p>
        )}
        {asks && <AskOutcomes rule={rule} onChange={change} />}
        {(rule.then === 'go-on' || rule.then === 'reject' || asks) && (
          <p className="dim under-label">
            {rule.stages?.length
              ? 'Its stages are below it in the outline.'
              : 'While this line is chosen, Add a stage puts one into it.'}
          </p>
        )}
      </Form>
      {(rule.then === 'use' || asks) && (
        <RecordSheet
          {...rest}
          stage={{ id: rule.id, columns: rule.columns ?? [], fills: rule.fills ?? [], document: undefined }}
          call={undefined}
          heading={asks ? 'stands for the reply' : 'value'}
          missing={asks ? fieldsUsed(file, rule, owner && 'as' in owner ? owner.as : undefined) : undefined}
          everything={false}
          onChange={(its) => change({ columns: its.columns, fills: its.fills })}
        />
      )}
    </div>
  );
}
