import { Form } from 'antd';
import type { Column, FlowFile, Rule } from '../api/flow';
import { ExpressionField } from './ExpressionField';
import { useTry } from './useStageTools';

const SAID: {
  key: keyof NonNullable<Rule['outcomes']>;
  label: string;
  placeholder: string;
  extra?: string;
}[] = [
  { key: 'done', label: 'Done when', placeholder: 'exists($found/booking)' },
  {
    key: 'notDone',
    label: 'Not done when',
    placeholder: 'never',
    extra: 'Then it is sent. Leave it empty where the service may still be working on it.',
  },
  {
    key: 'conflicting',
    label: 'Conflicting when',
    placeholder: 'never',
    extra: 'A person has to look. So it is when both hold, or neither.',
  },
];

/** What the answer of a service tells of a change that is in doubt. */
export function AskOutcomes({ rule, onChange }: { rule: Rule; onChange: (part: Partial<Rule>) => void }) {
  const onTry = useTry();
  return (
    <>
      {SAID.map(({ key, label, placeholder, extra }) => (
        <Form.Item key={key} label={label} extra={extra}>
          <ExpressionField
            label={label}
            value={rule.outcomes?.[key]}
            placeholder={placeholder}
            onTry={onTry}
            onChange={(text) => onChange({ outcomes: { ...rule.outcomes, [key]: text } })}
          />
        </Form.Item>
      ))}
    </>
  );
}

/** Returns columns for the fields of a reply that the flow uses, where a record that stands for it has none. */
export function fieldsUsed(file: FlowFile, rule: Rule, reply: string | undefined): Column[] {
  if (!reply) return [];
  const text = JSON.stringify(file, (key, value: unknown) => (key === 'rules' ? undefined : value));
  const used = text.matchAll(new RegExp(`\\$${reply}/([\\p{L}_][\\p{L}\\p{N}_.-]*)`, 'gu'));
  const there = new Set(rule.columns?.map((c) => c.name));
  return [...new Set([...used].map((m) => m[1]))]
    .filter((name) => !there.has(name))
    .map((name) => ({ name, label: name, type: 'string', required: false }));
}
