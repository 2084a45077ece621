import { Input, InputNumber, Select } from 'antd';
import { formatLabel, type ValueFormat } from '../api/flow';

const CHOICES: { value: string; label: string; step: ValueFormat }[] = [
  { value: 'comma', label: 'decimal comma: 96,5', step: { kind: 'number', read: ',' } },
  {
    value: 'thousands',
    label: 'thousands point: 1.234,5',
    step: { kind: 'number', read: ',', grouping: '.' },
  },
  { value: 'grouped', label: 'thousands comma: 1,234.5', step: { kind: 'number', read: '.', grouping: ',' } },
  { value: 'writeComma', label: 'write a decimal comma', step: { kind: 'number', write: ',' } },
  { value: 'decimals', label: 'round to decimals', step: { kind: 'number', decimals: 2 } },
  { value: 'date', label: 'a date in a pattern', step: { kind: 'date', read: 'dd.MM.yyyy' } },
  {
    value: 'zone',
    label: 'a time in a zone',
    step: { kind: 'date', read: 'dd.MM.yyyy HH:mm', zone: 'Europe/Oslo' },
  },
  {
    value: 'bool',
    label: 'yes/no as true/false',
    step: {
      kind: 'boolean',
      yes: ['yes', 'y', 'ja', 'j', '1', 'true'],
      no: ['no', 'n', 'nein', '0', 'false'],
    },
  },
  { value: 'boolWords', label: 'true/false as words', step: { kind: 'boolean', write: 'J/N' } },
  { value: 'trim', label: 'without outer spaces', step: { kind: 'trim' } },
  { value: 'upper', label: 'in capitals', step: { kind: 'case', write: 'upper' } },
  { value: 'lower', label: 'in small letters', step: { kind: 'case', write: 'lower' } },
  { value: 'first', label: 'first letter a capital', step: { kind: 'case', write: 'first' } },
  { value: 'keep', label: 'only some characters', step: { kind: 'keep', allowed: 'A-Za-z0-9 ' } },
  { value: 'cut', label: 'cut to characters', step: { kind: 'cut', length: 40 } },
  { value: 'cutBytes', label: 'cut to bytes', step: { kind: 'cut', length: 40, unit: 'bytes' } },
  { value: 'pad', label: 'fill up with zeros', step: { kind: 'pad', length: 8 } },
];

function steps(format: ValueFormat | undefined): ValueFormat[] {
  const all: ValueFormat[] = [];
  for (let at = format; at; at = at.then) all.push({ ...at, then: undefined });
  return all;
}

function chain(all: ValueFormat[]): ValueFormat | undefined {
  return all.reduceRight<ValueFormat | undefined>((then, step) => ({ ...step, then }), undefined);
}

/** How a value is read and written: one step after the other. */
export function FormatSteps({
  format,
  onChange,
}: {
  format?: ValueFormat;
  onChange: (format: ValueFormat | undefined) => void;
}) {
  const all = steps(format);
  const set = (at: number, part: Partial<ValueFormat>) =>
    onChange(chain(all.map((s, i) => (i === at ? { ...s, ...part } : s))));
  const text = (
    at: number,
    name: 'read' | 'write' | 'zone' | 'toZone' | 'allowed' | 'with',
    placeholder: string,
  ) => (
    <Input
      key={`${at}${name}`}
      size="small"
      className="mono field-m"
      aria-label={name}
      placeholder={placeholder}
      defaultValue={all[at][name] ?? ''}
      onBlur={(e) => set(at, { [name]: e.target.value || undefined })}
      onPressEnter={(e) => e.currentTarget.blur()}
    />
  );
  return (
    <div className="stack tight">
      {all.map((step, i) => (
        <div key={`${i} ${step.kind}`} className="row wraps tight">
          <span className="dim number-s">{i + 1}</span>
          <span className="pick-s">{formatLabel(step)}</span>
          {step.kind === 'date' && (
            <>
              {text(i, 'read', 'dd.MM.yyyy')}
              {text(i, 'write', 'written as')}
              {(step.zone !== undefined || step.toZone !== undefined) && (
                <>
                  {text(i, 'zone', 'in zone')}
                  {text(i, 'toZone', 'to zone')}
                </>
              )}
            </>
          )}
          {step.kind === 'boolean' && step.write !== undefined && text(i, 'write', 'J/N')}
          {step.kind === 'keep' && text(i, 'allowed', 'A-Za-z0-9')}
          {(step.kind === 'cut' || step.kind === 'pad') && (
            <InputNumber
              size="small"
              aria-label="length"
              min={1}
              className="field-xs"
              value={step.length}
              onChange={(length) => length && set(i, { length })}
            />
          )}
          {step.kind === 'number' && step.decimals !== undefined && (
            <InputNumber
              size="small"
              aria-label="decimals"
              min={0}
              max={30}
              className="field-xs"
              value={step.decimals}
              onChange={(decimals) => decimals !== null && set(i, { decimals })}
            />
          )}
          <span className="grow" />
          <button
            type="button"
            className="linkish"
            aria-label={`remove step ${i + 1}`}
            onClick={() => onChange(chain(all.filter((_, at) => at !== i)))}
          >
            remove
          </button>
        </div>
      ))}
      <Select
        size="small"
        aria-label="Add a step"
        placeholder={all.length ? 'then …' : 'as it is; add a step …'}
        value={null}
        className="field-2xl"
        showSearch
        optionFilterProp="label"
        options={CHOICES.map(({ value, label }) => ({ value, label }))}
        onChange={(key: string | null) => {
          const step = CHOICES.find((c) => c.value === key)?.step;
          if (step) onChange(chain([...all, step]));
        }}
      />
    </div>
  );
}
