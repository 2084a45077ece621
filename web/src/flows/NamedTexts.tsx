import { Button, Input } from 'antd';
import type { AnswerStage } from '../api/flow';

type NamedText = NonNullable<AnswerStage['headers']>[number];

/** Texts beside what a stage makes, a name and a path or expression each: headers of HTTP, properties of a message. */
export function NamedTexts({
  one,
  example,
  all,
  onChange,
}: {
  one: string;
  example: string;
  all: NamedText[];
  onChange: (all: NamedText[]) => void;
}) {
  const change = (at: number, part: Partial<NamedText>) =>
    onChange(all.map((h, i) => (i === at ? { ...h, ...part } : h)));
  return all.map((h, i) => (
    // the place is all one that is being typed has
    <div key={i} className="row pad-row gap-below-s">
      <span className="dim">{one}</span>
      <Input
        size="small"
        className="mono field-xl"
        aria-label={`Name of ${one} ${i + 1}`}
        placeholder={example}
        defaultValue={h.name}
        onBlur={(e) => e.target.value !== h.name && change(i, { name: e.target.value })}
      />
      <Input
        size="small"
        className="mono grow"
        aria-label={`Value of ${one} ${i + 1}`}
        placeholder="$input/loan_no"
        defaultValue={h.value}
        onBlur={(e) => e.target.value !== h.value && change(i, { value: e.target.value })}
      />
      <Button size="small" type="text" onClick={() => onChange(all.filter((_, o) => o !== i))}>
        Remove
      </Button>
    </div>
  ));
}
