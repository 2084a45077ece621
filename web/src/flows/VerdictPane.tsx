import { Dropdown, Form, Segmented, Select } from 'antd';
import { useMemo } from 'react';
import type { BatchStage as Batch, Verdict } from '../api/flow';
import { ExpressionField } from './ExpressionField';
import css from './flow.module.css';
import type { PaneProps } from './panes';
import { SettingsPane } from './SettingsPane';
import { useTry } from './useStageTools';
import { answerLines, type AnswerLine } from './verdictLines';

/** How the reply to a batch answers for each of its records; the lines of a kept reply say it by clicking. */
export function VerdictPane({ stage, number, preview, onChange }: Omit<PaneProps<Batch>, 'onVariable'>) {
  const onTry = useTry();
  const { verdict } = stage;
  const lines = useMemo(
    () => answerLines(preview?.kept?.reply ?? '', verdict?.lines ?? ''),
    [preview?.kept?.reply, verdict?.lines],
  );
  if (!verdict) return null;
  const change = (part: Partial<Verdict>) => onChange({ ...stage, verdict: { ...verdict, ...part } });
  const repeated = (preview?.sources ?? [])
    .filter((group) => group.variable !== stage.batch)
    .flatMap((group) => group.fields.filter((field) => field.repeats));
  const said = preview?.way?.batches[stage.id];
  const byKey = verdict.itemKey !== undefined || verdict.lineKey !== undefined;
  return (
    <SettingsPane
      title={`${number} · Verdict`}
      says={
        said?.said ? `the sample is ${said.said.replace('-', ' ')}` : 'what the reply says of each record'
      }
    >
      <Form.Item label="Lines" extra="The field that repeats, one for each record: $reply/paper.">
        <Select
          aria-label="Lines"
          showSearch
          className="mono field-3xl"
          placeholder="a repeated field of the reply"
          value={verdict.lines}
          onChange={(path: string) => change({ lines: path })}
          options={repeated.map((field) => ({ value: field.wire }))}
        />
      </Form.Item>
      {lines.length > 0 && <KeptLines lines={lines} verdict={verdict} onChange={change} />}
      <Form.Item label="A record’s line">
        <Segmented
          value={byKey ? 'key' : 'position'}
          onChange={(by) =>
            change(by === 'key' ? { itemKey: '', lineKey: '' } : { itemKey: undefined, lineKey: undefined })
          }
          options={[
            { value: 'key', label: 'has the same key' },
            { value: 'position', label: 'stands at its position' },
          ]}
        />
      </Form.Item>
      {byKey && (
        <>
          <Form.Item label="Key of the record">
            <ExpressionField
              label="Key of the record"
              value={verdict.itemKey}
              placeholder="$item/loan/loan_no"
              onTry={onTry}
              onChange={(itemKey) => change({ itemKey: itemKey ?? '' })}
            />
          </Form.Item>
          <Form.Item label="Key of the line">
            <ExpressionField
              label="Key of the line"
              value={verdict.lineKey}
              placeholder="$line/reference"
              onTry={onTry}
              onChange={(lineKey) => change({ lineKey: lineKey ?? '' })}
            />
          </Form.Item>
        </>
      )}
      <Form.Item label="Accepted when">
        <ExpressionField
          label="Accepted when"
          value={verdict.accepted}
          placeholder="$line/status = 'accepted'"
          onTry={onTry}
          onChange={(accepted) => change({ accepted })}
        />
      </Form.Item>
      <Form.Item
        label="Refused when"
        extra="Every other line when empty; else what says neither is in doubt."
      >
        <ExpressionField
          label="Refused when"
          value={verdict.refused}
          placeholder="every other line"
          onTry={onTry}
          onChange={(refused) => change({ refused })}
        />
      </Form.Item>
      <Form.Item label="Reason" extra="Why it is refused: the run counts records by it.">
        <ExpressionField
          label="Reason"
          value={verdict.reason}
          placeholder="$line/reason"
          onTry={onTry}
          onChange={(reason) => change({ reason })}
        />
      </Form.Item>
      <Form.Item label="Without a line">
        <Segmented
          value={verdict.silent ?? 'in-doubt'}
          onChange={(silent) => change({ silent: silent as Verdict['silent'] })}
          options={[
            { value: 'in-doubt', label: 'in doubt' },
            { value: 'accepted', label: 'accepted' },
            { value: 'refused', label: 'refused' },
          ]}
        />
      </Form.Item>
    </SettingsPane>
  );
}

/** The lines of the kept reply: a click on a value says what it means. */
function KeptLines({
  lines,
  verdict,
  onChange,
}: {
  lines: AnswerLine[];
  verdict: Verdict;
  onChange: (part: Partial<Verdict>) => void;
}) {
  const fields = [...new Set(lines.flatMap((line) => Object.keys(line)))].slice(0, 6);
  const meanings = (field: string, value: string) => [
    { key: 'accepted', label: `accepted when ${field} is “${value}”` },
    { key: 'refused', label: `refused when ${field} is “${value}”` },
    { key: 'key', label: `${field} is the key of the line` },
    { key: 'reason', label: `${field} is the reason` },
  ];
  const takes = (meaning: string, field: string, value: string) => {
    const path = `$line/${field}`;
    const is = `${path} = '${value.replace(/'/g, "''")}'`;
    if (meaning === 'accepted') onChange({ accepted: is });
    else if (meaning === 'refused') onChange({ refused: is });
    else if (meaning === 'reason') onChange({ reason: path });
    else onChange({ lineKey: path, itemKey: verdict.itemKey ?? '' });
  };
  return (
    <Form.Item label="In the kept reply" extra="Click a value to say what it means.">
      <table className={css.keptLines} aria-label="Lines of the kept reply">
        <thead>
          <tr>
            {fields.map((field) => (
              <th key={field}>{field}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map((line, at) => (
            <tr key={at}>
              {fields.map((field) => (
                <td key={field}>
                  {line[field] === undefined ? (
                    <span className="faint">–</span>
                  ) : (
                    <Dropdown
                      trigger={['click']}
                      menu={{
                        items: meanings(field, line[field]),
                        onClick: ({ key }) => takes(key, field, line[field]),
                      }}
                    >
                      <button type="button" className="linkish mono clip">
                        {line[field] || 'empty'}
                      </button>
                    </Dropdown>
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </Form.Item>
  );
}
