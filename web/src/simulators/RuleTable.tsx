import { Button } from 'antd';
import type { SimulatorRule } from '../api/types';
import { readable } from './FieldPick';
import css from './SimulatorPage.module.css';

function last(path: string): string {
  return readable(path).split(' / ').pop() ?? path;
}

/** Returns in words when a rule holds. */
function when(rule: SimulatorRule): string {
  const parts = (rule.matches ?? []).map((m) =>
    m.value ? `${last(m.field)} = ${m.value}` : `no ${last(m.field)}`,
  );
  if (rule.when) parts.push(rule.when);
  return parts.join(' and ') || 'always';
}

/** Returns in words what a rule answers. */
function answer(rule: SimulatorRule): string {
  const values = (rule.fills ?? [])
    .filter((f) => !f.pick)
    .map((f) => `${last(f.target)}: ${f.constant ?? `=${f.expression ?? f.wire ?? f.repeat ?? ''}`}`);
  const shown = values.slice(0, 4).join(', ') + (values.length > 4 ? ` and ${values.length - 4} more` : '');
  return rule.fault ? `fault ${rule.fault}${shown ? ` (${shown})` : ''}` : shown || 'a valid example';
}

/** The rules in the order they are tried: the first that holds answers. */
export function RuleTable({
  rules,
  onChange,
  onEdit,
}: {
  rules: SimulatorRule[];
  onChange: (rules: SimulatorRule[]) => void;
  onEdit: (index: number) => void;
}) {
  const move = (from: number, to: number) => {
    const next = [...rules];
    next.splice(to, 0, ...next.splice(from, 1));
    onChange(next);
  };
  return (
    <table className={css.rules} aria-label="Rules">
      <thead>
        <tr>
          <th>#</th>
          <th>Operation</th>
          <th>When</th>
          <th>Answers</th>
          <th className="num">After</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {rules.map((rule, i) => (
          <tr key={i} onClick={() => onEdit(i)}>
            <td className="dim">{i + 1}</td>
            <td>
              <button type="button" className="linkish" onClick={() => onEdit(i)}>
                {rule.operation}
              </button>
            </td>
            <td className="mono">{when(rule)}</td>
            <td className={`mono ${rule.fault ? 'bad' : ''}`}>{answer(rule)}</td>
            <td className="num">{rule.delayMillis ? `${rule.delayMillis} ms` : ''}</td>
            <td className="nowrap" onClick={(e) => e.stopPropagation()}>
              <Button
                size="small"
                type="text"
                disabled={i === 0}
                aria-label={`Rule ${i + 1} up`}
                onClick={() => move(i, i - 1)}
              >
                ↑
              </Button>
              <Button
                size="small"
                type="text"
                disabled={i === rules.length - 1}
                aria-label={`Rule ${i + 1} down`}
                onClick={() => move(i, i + 1)}
              >
                ↓
              </Button>
              <Button
                size="small"
                type="text"
                aria-label={`Remove rule ${i + 1}`}
                onClick={() => onChange(rules.filter((_, at) => at !== i))}
              >
                ×
              </Button>
            </td>
          </tr>
        ))}
        <tr>
          <td />
          <td className="dim">any other</td>
          <td className="dim">always</td>
          <td className="dim">a valid example of the reply</td>
          <td />
          <td />
        </tr>
      </tbody>
    </table>
  );
}
