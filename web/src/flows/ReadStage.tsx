import { AutoComplete, Checkbox, Form, Input, Segmented, Select, Table } from 'antd';
import { Link } from 'react-router';
import { type Column, formatLabel, type ReadStage as Read } from '../api/flow';
import css from './flow.module.css';
import { freeStageId, freeVariable } from '../api/outline';
import { DELIVERY } from './delivery';
import { InputSource } from './InputSource';
import { OperationSource } from './OperationSource';
import { tryAgain } from './verbs';
import { NamedValues } from './NamedValues';
import { VariableName } from './VariableName';
import type { PaneProps } from './panes';
import { useDatasets } from './useChoices';

/** Where records come from, the name they have in the flow, and their layout. */
export function ReadStage({ file, stage, number, preview, onChange, onVariable }: PaneProps<Read>) {
  const datasets = useDatasets();
  const chosen = datasets.find((d) => d.name === stage.dataset);
  const columns = (chosen?.columns ?? []) as Column[];
  return (
    <div className={css.stage}>
      <div className={css.stageHead}>
        <h2>{number} · Read</h2>
        <span className="dim">
          {stage.input
            ? 'each record is what a caller sends, and is answered'
            : stage.from
              ? `records from ${stage.from.call.operation ?? 'an operation that is not picked yet'}`
              : chosen
                ? `${chosen.rows} records from ${chosen.name}`
                : 'no dataset picked yet'}
        </span>
      </div>
      <Form
        colon={false}
        layout="horizontal"
        labelCol={{ flex: '150px' }}
        labelAlign="left"
        size="small"
        className="pad-l"
      >
        <Form.Item label="Records from">
          <Segmented
            value={stage.input ? 'callers' : stage.from ? 'operation' : 'dataset'}
            onChange={(from) => {
              const bare = {
                ...stage,
                dataset: undefined,
                from: undefined,
                input: undefined,
                groupBy: undefined,
              };
              if (from === 'callers') {
                onChange({ ...bare, input: { columns: [], lists: [], samples: [] } });
                return;
              }
              onChange(
                from === 'dataset'
                  ? { ...bare, dataset: stage.dataset }
                  : {
                      ...bare,
                      from: {
                        call: {
                          verb: 'Call',
                          id: freeStageId(file, 'source'),
                          as: freeVariable(file, 'reply'),
                          fills: [],
                          delivery: { ...DELIVERY, effect: 'reads', atOnce: 1 },
                          lane: { rules: [tryAgain(freeStageId(file, 'source-again'))] },
                        },
                      },
                    },
              );
            }}
            options={[
              { value: 'dataset', label: 'a dataset' },
              { value: 'operation', label: 'an operation' },
              { value: 'callers', label: 'callers' },
            ]}
          />
        </Form.Item>
        {stage.from && (
          <OperationSource
            stage={stage}
            from={stage.from}
            onChange={(from) => onChange({ ...stage, from })}
          />
        )}
        {stage.input && (
          <InputSource
            key={stage.input.columns.length}
            input={stage.input}
            onChange={(input) => onChange({ ...stage, input })}
          />
        )}
        {!stage.from && !stage.input && (
          <Form.Item label="Dataset">
            <span className="row">
              <Select
                aria-label="Dataset"
                showSearch
                className="field-3xl"
                placeholder="pick a dataset"
                value={stage.dataset}
                onChange={(dataset) => onChange({ ...stage, dataset })}
                options={datasets
                  .filter((d) => d.hasData)
                  .map((d) => ({ value: d.name, label: `${d.name} · ${d.rows} rows` }))}
              />
              {chosen && <Link to={`/datasets/${chosen.id}`}>look at it</Link>}
            </span>
          </Form.Item>
        )}
        <Form.Item
          label="Each record is"
          extra="The name used in expressions and wires; renaming it changes all of them."
        >
          <VariableName label="Record variable" value={stage.as} onRename={onVariable} />
        </Form.Item>
        <Form.Item label="Business key" extra="Shown for every record in the ledger.">
          {stage.from || stage.input ? (
            <AutoComplete
              aria-label="Business key"
              allowClear
              className="mono field-3xl"
              placeholder="none"
              value={stage.key || undefined}
              onChange={(key?: string) => onChange({ ...stage, key: key || undefined })}
              options={(preview?.sources ?? [])
                .filter((group) => group.variable === stage.as)
                .flatMap((group) => group.fields)
                .map((field) => ({ value: field.wire }))}
            />
          ) : (
            <Select
              aria-label="Business key"
              showSearch
              allowClear
              className="mono field-3xl"
              placeholder="none"
              value={stage.key || undefined}
              onChange={(key?: string) => onChange({ ...stage, key })}
              options={columns.map((c) => ({ value: `$${stage.as}/${c.name}` }))}
            />
          )}
        </Form.Item>
        {!stage.from && !stage.input && (
          <Form.Item
            label="One record is"
            extra={
              stage.groupBy?.length ? (
                <>
                  Rows that follow each other and are equal in these fields become one record; each row of it
                  is a <span className="mono">${stage.as}/line</span>.
                </>
              ) : (
                'Every row, or the rows that are equal in some fields: a header with its lines.'
              )
            }
          >
            <Select
              mode="multiple"
              aria-label="Grouped by"
              className="mono field-3xl"
              placeholder="one row"
              value={stage.groupBy ?? []}
              onChange={(groupBy: string[]) =>
                onChange({ ...stage, groupBy: groupBy.length ? groupBy : undefined })
              }
              options={columns.map((c) => ({ value: c.name }))}
            />
          </Form.Item>
        )}
        {stage.key && (
          <Form.Item
            label="Order"
            extra="Records of one key never overlap; later ones are held back once one is rejected or in doubt."
          >
            <Checkbox
              aria-label="one after the other per key"
              checked={stage.inKeyOrder === true}
              onChange={(e) =>
                onChange({
                  ...stage,
                  inKeyOrder: e.target.checked || undefined,
                  carry: e.target.checked ? stage.carry : undefined,
                })
              }
            >
              one after the other per key
            </Checkbox>
          </Form.Item>
        )}
        {stage.key && stage.inKeyOrder && (
          <Form.Item
            label="Handed on"
            extra={
              stage.carry ? (
                <>
                  What a record that is done hands on to the next one of its key, as{' '}
                  <span className="mono">${stage.carry.as}</span>; the first one has none.
                </>
              ) : (
                'Values of a record that the next one of its key can use.'
              )
            }
          >
            <span className="row">
              <Checkbox
                aria-label="hand values on"
                checked={!!stage.carry}
                onChange={(e) =>
                  onChange({ ...stage, carry: e.target.checked ? { as: 'previous', values: [] } : undefined })
                }
              >
                to the next record of the key, as
              </Checkbox>
              {stage.carry && (
                <Input
                  aria-label="Handed on as"
                  className="mono field-m"
                  key={stage.carry.as}
                  defaultValue={`$${stage.carry.as}`}
                  onBlur={(e) => {
                    const as = e.target.value.replace(/^\$/, '');
                    if (stage.carry && as !== stage.carry.as)
                      onChange({ ...stage, carry: { ...stage.carry, as } });
                  }}
                />
              )}
            </span>
            {stage.carry && (
              <NamedValues
                what="Value"
                placeholder={`$${stage.as}/…`}
                values={stage.carry.values}
                onChange={(values) => onChange({ ...stage, carry: { as: stage.carry?.as ?? '', values } })}
              />
            )}
          </Form.Item>
        )}
        {!stage.input && (
          <Form.Item
            label="After a crash"
            extra="A run that was interrupted goes on where it was; nothing that changes data is sent twice."
          >
            <Checkbox
              aria-label="go on by itself"
              checked={stage.goesOn === true}
              onChange={(e) => onChange({ ...stage, goesOn: e.target.checked || undefined })}
            >
              go on by itself once the server is back
            </Checkbox>
          </Form.Item>
        )}
      </Form>
      {!stage.from && !stage.input && (
        <Table<Column>
          size="small"
          rowKey="name"
          className="pad-sides-l scrolls"
          pagination={false}
          dataSource={columns}
          columns={[
            { title: 'Field', dataIndex: 'name' },
            { title: 'Type', dataIndex: 'type', width: 110 },
            {
              title: 'Written as',
              width: 160,
              render: (_, c) => <span className="mono faint">{formatLabel(c.format)}</span>,
            },
            {
              title: 'Empty',
              width: 160,
              render: (_, c) => (c.required ? 'never' : <span className="dim">sometimes</span>),
            },
          ]}
        />
      )}
    </div>
  );
}
