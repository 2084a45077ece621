import { Input } from 'antd';
import { useState } from 'react';
import { ExpressionStrip, type Try } from './ExpressionStrip';

/** An expression in a field of its own; while it is typed its value for the sample stands below it. */
export function ExpressionField({
  label,
  value,
  placeholder,
  onTry,
  onChange,
}: {
  label: string;
  value: string | undefined;
  placeholder: string;
  onTry: Try;
  onChange: (text: string | undefined) => void;
}) {
  const [typed, setTyped] = useState<string>();
  return (
    <div className="fills shrinks">
      <Input.TextArea
        className="mono"
        aria-label={label}
        autoSize={{ minRows: 1, maxRows: 6 }}
        placeholder={placeholder}
        value={typed ?? value ?? ''}
        onFocus={() => setTyped(value ?? '')}
        onChange={(e) => setTyped(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && !e.shiftKey) {
            e.preventDefault();
            e.currentTarget.blur();
          }
        }}
        onBlur={() => {
          if (typed !== undefined && typed.trim() !== (value ?? '')) onChange(typed.trim() || undefined);
          setTyped(undefined);
        }}
      />
      {typed !== undefined && typed.trim() !== '' && (
        <div className="holds gap-above-s">
          <ExpressionStrip text={typed} onTry={onTry} onReplace={setTyped} />
        </div>
      )}
    </div>
  );
}
