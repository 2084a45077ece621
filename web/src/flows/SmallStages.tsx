import { Button, Form, Input, Segmented, Select } from 'antd';
import type {
  BranchStage as Branch,
  Branching,
  Column,
  FilterStage as Filter,
  LookUpStage as LookUp,
  NoteStage as Note,
} from '../api/flow';
import { freeStageId } from '../api/outline';
import { ExpressionField } from './ExpressionField';
import css from './flow.module.css';
import { VariableName } from './VariableName';
import type { PaneProps } from './panes';
import { useCodeTables, useDatasets } from './useChoices';
import { useTry } from './useStageTools';

const FORM = {
  colon: false,
  layout: 'horizontal',
  labelCol: { flex: '150px' },
  labelAlign: 'left',
  size: 'small',
  style: { padding: '14px 16px', overflow: 'auto' },
} as const;

function Head({
  number,
  verb,
  says,
  onRemove,
}: {
  number: string;
  verb: string;
  says: string;
  onRemove: () => void;
}) {
  return (
    <div className={css.stageHead}>
      <h2>
        {number} · {verb}
      </h2>
      <span className="dim clip grow">{says}</span>
      <Button size="small" onClick={onRemove}>
        Remove
      </Button>
    </div>
  );
}

/** Which records go on. */
export function FilterStage({ stage, number, preview, onChange, onRemove }: PaneProps<Filter>) {
  const onTry = useTry();
  const left = preview?.way?.end === 'left-out' && preview.way.endedAt === stage.id;
  return (
    <div className={css.stage}>
      <Head
        number={number}
        verb="Filter"
        says="records for which the condition holds go on; the others end as left out"
        onRemove={onRemove}
      />
      <Form {...FORM}>
        <Form.Item label="Goes on when">
          <ExpressionField
            label="Goes on when"
            value={stage.when}
            placeholder="$loan/climate = 'A'"
            onTry={onTry}
            onChange={(when) => onChange({ ...stage, when })}
          />
        </Form.Item>
        <Form.Item
          label="Left out as"
          extra="The label under which the run counts the others; the condition when empty."
        >
          <Input
            aria-label="Left out as"
            className="field-3xl"
            key={stage.name}
            defaultValue={stage.name}
            placeholder="not in a climate crate"
            onBlur={(e) =>
              e.target.value !== (stage.name ?? '') &&
              onChange({ ...stage, name: e.target.value || undefined })
            }
          />
        </Form.Item>
        <Form.Item label="The sample">
          {preview?.way ? (
            <span className={left ? 'bad' : ''}>
              {left
                ? 'is left out here'
                : preview.way.reached.includes(stage.id)
                  ? 'goes on'
                  : 'does not come here'}
            </span>
          ) : (
            <span className="dim">–</span>
          )}
        </Form.Item>
      </Form>
    </div>
  );
}

/** A stage that looks into another dataset, `d name`, or code table, `c name`; a code table has no column to pick. */
function lookedInto(stage: LookUp, picked: string): LookUp {
  const name = picked.slice(2);
  return picked.startsWith('c ')
    ? { ...stage, codes: name, dataset: undefined, column: undefined, many: undefined }
    : { ...stage, dataset: name, codes: undefined, column: undefined };
}

/** A row found by a key. */
export function LookUpStage({ stage, number, onChange, onVariable, onRemove }: PaneProps<LookUp>) {
  const datasets = useDatasets();
  const tables = useCodeTables();
  const onTry = useTry();
  const columns = (datasets.find((d) => d.name === stage.dataset)?.columns ?? []) as Column[];
  return (
    <div className={css.stage}>
      <Head
        number={number}
        verb="Look up"
        says="a row of a dataset or an entry of a code table, found by a key"
        onRemove={onRemove}
      />
      <Form {...FORM}>
        <Form.Item label="Looked into">
          <Select
            aria-label="Looked into"
            showSearch
            className="field-3xl"
            placeholder="pick a dataset or a code table"
            value={stage.codes ? `c ${stage.codes}` : stage.dataset && `d ${stage.dataset}`}
            onChange={(picked) => onChange(lookedInto(stage, picked))}
            options={[
              {
                label: 'Datasets',
                options: datasets
                  .filter((d) => d.hasData && d.kind !== 'folder')
                  .map((d) => ({ value: `d ${d.name}`, label: `${d.name} · ${d.rows} rows` })),
              },
              {
                label: 'Code tables',
                options: tables.map((t) => ({
                  value: `c ${t.name}`,
                  label: `${t.name} · ${t.codes} codes`,
                })),
              },
            ]}
          />
        </Form.Item>
        {!stage.codes && (
          <Form.Item label="Its column">
            <Select
              aria-label="Column"
              showSearch
              className="mono field-3xl"
              placeholder="that holds the key"
              value={stage.column}
              onChange={(column) => onChange({ ...stage, column })}
              options={columns.map((c) => ({ value: c.name }))}
            />
          </Form.Item>
        )}
        <Form.Item label="The key">
          <ExpressionField
            label="The key"
            value={stage.key}
            placeholder="$loan/climate"
            onTry={onTry}
            onChange={(key) => onChange({ ...stage, key })}
          />
        </Form.Item>
        <Form.Item label="The row is">
          <VariableName label="Row variable" value={stage.as} onRename={onVariable} />
        </Form.Item>
        <Form.Item label="No such row">
          <Segmented
            value={stage.none ?? 'reject'}
            onChange={(none) => onChange({ ...stage, none: none as LookUp['none'] })}
            options={[
              { value: 'reject', label: 'fails' },
              { value: 'empty', label: 'goes on, empty' },
            ]}
          />
        </Form.Item>
        {!stage.codes && (
          <Form.Item label="Several rows">
            <Segmented
              value={stage.many ?? 'reject'}
              onChange={(many) => onChange({ ...stage, many: many as LookUp['many'] })}
              options={[
                { value: 'reject', label: 'fails' },
                { value: 'first', label: 'takes the first' },
              ]}
            />
          </Form.Item>
        )}
      </Form>
    </div>
  );
}

/** The ways, in the order their conditions are asked. */
export function BranchStage({ file, stage, number, preview, onChange, onRemove }: PaneProps<Branch>) {
  const onTry = useTry();
  const set = (ways: Branching[]) => onChange({ ...stage, ways });
  const change = (id: string, part: Partial<Branching>) =>
    set(stage.ways.map((w) => (w.id === id ? { ...w, ...part } : w)));
  const rest = stage.ways.find((w) => w.when === undefined);
  const add = () => {
    const way = { id: freeStageId(file, `${stage.id}-way`), when: '', stages: [] };
    set(rest ? [...stage.ways.filter((w) => w !== rest), way, rest] : [...stage.ways, way]);
  };
  return (
    <div className={css.stage}>
      <Head
        number={number}
        verb="Branch"
        says="the first way whose condition holds is taken"
        onRemove={onRemove}
      />
      <div className="pad-l scrolls">
        {stage.ways.map((way, i) => (
          <div key={way.id} className={css.way}>
            <span
              className={`num ${css.wayNumber} ${preview?.way?.ways[stage.id] === i ? css.wayTaken : ''}`}
            >
              {i + 1}
            </span>
            <Input
              size="small"
              aria-label={`Name of way ${i + 1}`}
              placeholder="what it is"
              className="field-l"
              key={way.label}
              defaultValue={way.label}
              onBlur={(e) =>
                e.target.value !== (way.label ?? '') && change(way.id, { label: e.target.value || undefined })
              }
            />
            {way.when === undefined ? (
              <span className="dim grow">otherwise</span>
            ) : (
              <ExpressionField
                label={`Condition of way ${i + 1}`}
                value={way.when}
                placeholder="$borrower/country = 'NO'"
                onTry={onTry}
                onChange={(when) => change(way.id, { when: when ?? '' })}
              />
            )}
            <span className="dim rigid">
              {way.stages.length} {way.stages.length === 1 ? 'stage' : 'stages'}
            </span>
            <Button
              size="small"
              type="text"
              aria-label={`Remove way ${i + 1}`}
              title={way.stages.length ? 'its stages go with it' : undefined}
              onClick={() => set(stage.ways.filter((w) => w.id !== way.id))}
            >
              ✕
            </Button>
          </div>
        ))}
        <div className="row gap-above">
          <Button size="small" onClick={add}>
            Add a way
          </Button>
          {!rest && (
            <Button
              size="small"
              onClick={() => set([...stage.ways, { id: freeStageId(file, `${stage.id}-else`), stages: [] }])}
            >
              Add “otherwise”
            </Button>
          )}
        </div>
        {preview?.way && preview.way.reached.includes(stage.id) && (
          <p className="dim gap-above">
            The sample takes{' '}
            {preview.way.ways[stage.id] === undefined || preview.way.ways[stage.id] < 0
              ? 'none of them'
              : `way ${preview.way.ways[stage.id] + 1}`}
            .
          </p>
        )}
        <p className="faint">
          To put a stage into a way, choose the way in the outline and add there, or move the stage with Alt ↑
          and Alt ↓.
        </p>
      </div>
    </div>
  );
}

/** Words for the next person. */
export function NoteStage({ stage, number, onChange, onRemove }: PaneProps<Note>) {
  return (
    <div className={css.stage}>
      <Head number={number} verb="Note" says="for the next person; it does nothing" onRemove={onRemove} />
      <Input.TextArea
        aria-label="Note"
        autoSize={{ minRows: 6 }}
        className="inset-table"
        key={stage.id}
        defaultValue={stage.text}
        onBlur={(e) => e.target.value !== (stage.text ?? '') && onChange({ ...stage, text: e.target.value })}
      />
    </div>
  );
}
