import { Button, Input } from 'antd';
import type { NamedValue } from '../api/flow';
import { ExpressionField } from './ExpressionField';
import { useTry } from './useStageTools';

/** Values taken of each record at its end: a name and an expression each. */
export function NamedValues({
  values,
  what,
  placeholder,
  onChange,
}: {
  values: NamedValue[];
  /** What each of them is: Sum. */
  what: string;
  placeholder: string;
  onChange: (values: NamedValue[]) => void;
}) {
  const onTry = useTry();
  const set = (at: number, its: Partial<NamedValue>) =>
    onChange(values.map((v, i) => (i === at ? { ...v, ...its } : v)));
  return (
    <>
      {values.map((its, at) => (
        <div key={at} className="row gap-above-s">
          <Input
            aria-label={what}
            className="mono field-m"
            defaultValue={its.name}
            onBlur={(e) => e.target.value !== its.name && set(at, { name: e.target.value })}
          />
          <ExpressionField
            label={`${what} of`}
            value={its.of}
            placeholder={placeholder}
            onTry={onTry}
            onChange={(of) => set(at, { of: of ?? '' })}
          />
          <Button size="small" type="text" onClick={() => onChange(values.filter((_, i) => i !== at))}>
            Remove
          </Button>
        </div>
      ))}
      <Button
        size="small"
        className="gap-above-s"
        onClick={() => onChange([...values, { name: `${what.toLowerCase()}${values.length + 1}`, of: '' }])}
      >
        Add a {what.toLowerCase()}
      </Button>
    </>
  );
}
