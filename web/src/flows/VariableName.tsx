import { Input } from 'antd';

const NAME = /^[\p{L}_][\p{L}\p{N}_.-]*$/u;

/** The variable a stage's result is bound to; a text that is no name is not taken. */
export function VariableName({
  label,
  value,
  small,
  onRename,
}: {
  label: string;
  value: string;
  small?: boolean;
  onRename: (name: string) => void;
}) {
  return (
    <Input
      size={small ? 'small' : undefined}
      className={`mono ${small ? 'field-m' : 'field-3xl'}`}
      prefix="$"
      aria-label={label}
      key={value}
      defaultValue={value}
      onBlur={(e) => NAME.test(e.target.value) && e.target.value !== value && onRename(e.target.value)}
    />
  );
}
