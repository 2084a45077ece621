import { Input, Select } from 'antd';
import type { SheetRow } from '../api/types';

/** The value of one field of a message that is filled by hand. */
export function ValueCell({
  row,
  value,
  wrong,
  onChange,
}: {
  row: SheetRow;
  value: string | undefined;
  /** What is wrong with it. */
  wrong: string | undefined;
  onChange: (value: string) => void;
}) {
  return (
    <>
      {wrong && (
        <span className="bad clip" title={wrong}>
          {wrong}
        </span>
      )}
      {row.values.length > 0 ? (
        <Select
          size="small"
          allowClear
          className="mono field-xl"
          aria-label={row.name}
          value={value || undefined}
          options={row.values.map((v) => ({ value: v, label: v }))}
          onChange={(v?: string) => onChange(v ?? '')}
        />
      ) : (
        <Input
          size="small"
          className="mono field-xl rigid"
          aria-label={row.name}
          status={wrong ? 'error' : undefined}
          value={value ?? ''}
          onChange={(e) => onChange(e.target.value)}
        />
      )}
    </>
  );
}
