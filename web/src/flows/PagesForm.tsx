import { Form, Input, InputNumber, Select } from 'antd';
import type { CallStage, Paging } from '../api/flow';
import { ExpressionField } from './ExpressionField';
import { repeatedPaths } from './repeatedPaths';
import { useSheet } from './useChoices';
import { useTry } from './useStageTools';

const BY: { value: Paging['by'] | 'once'; label: string }[] = [
  { value: 'once', label: 'one call' },
  { value: 'token', label: 'pages, while the reply gives a token' },
  { value: 'offset', label: 'pages from an offset, while rows come' },
  { value: 'number', label: 'numbered pages, while rows come' },
];

/** How a call that reads asks for page after page. */
export function PagesForm({
  stage,
  source,
  onChange,
}: {
  stage: CallStage;
  /** Whether it gives a Read its records: then the rows are said there. */
  source: boolean;
  onChange: (stage: CallStage) => void;
}) {
  const onTry = useTry();
  const reply = useSheet(stage, 'reply');
  const pages = stage.pages;
  const set = (part: Partial<Paging>) => pages && onChange({ ...stage, pages: { ...pages, ...part } });
  const number = (label: string, value: number | undefined, min: number, keep: (n?: number) => void) => (
    <InputNumber
      size="small"
      aria-label={label}
      className="field-s"
      min={min}
      precision={0}
      value={value}
      onChange={(v) => keep(v ?? undefined)}
    />
  );
  return (
    <>
      <Form.Item
        label="Asked for"
        extra={
          pages && (
            <>
              Fill the request with{' '}
              <span className="mono">
                {pages.by === 'token'
                  ? '$page/token'
                  : pages.by === 'offset'
                    ? '$page/offset'
                    : '$page/number'}
              </span>
              {pages.by === 'token' && '; the first page has none'}. The rows of all pages come together.
            </>
          )
        }
      >
        <Select
          aria-label="Pages"
          className="field-3xl"
          value={pages?.by ?? 'once'}
          options={BY}
          onChange={(by: Paging['by'] | 'once') =>
            onChange({
              ...stage,
              pages: by === 'once' ? undefined : { ...pages, by },
              delivery: by === 'once' ? stage.delivery : { ...stage.delivery, memorySeconds: undefined },
            })
          }
        />
      </Form.Item>
      {pages && !source && (
        <Form.Item label="Its rows" extra="The element that repeats on a page.">
          <Select
            showSearch
            aria-label="Rows of a page"
            className="mono field-3xl"
            placeholder="pick the element that repeats"
            value={pages.rows || undefined}
            options={repeatedPaths(reply?.rows ?? [], stage.as).map((value) => ({ value }))}
            onChange={(rows: string) => set({ rows })}
          />
        </Form.Item>
      )}
      {pages?.by === 'token' && (
        <Form.Item
          label="The next token"
          extra="Nothing at the last page. A token that comes back fails the call."
        >
          <ExpressionField
            label="Next token"
            value={pages.next}
            placeholder={`$${stage.as}/next`}
            onTry={onTry}
            onChange={(next) => set({ next })}
          />
        </Form.Item>
      )}
      {pages && (
        <Form.Item label="The last page">
          <div className="stack">
            <span className="row wraps">
              {pages.by !== 'token' && (
                <>
                  begins at{' '}
                  {number('First', pages.start ?? (pages.by === 'offset' ? 0 : 1), 0, (start) =>
                    set({ start }),
                  )}
                  has fewer rows than {number('Rows of a full page', pages.size, 1, (size) => set({ size }))}
                </>
              )}
              at most {number('Most pages', pages.most ?? 1000, 1, (most) => set({ most }))} pages; more fail
            </span>
            <Input
              size="small"
              className="mono"
              aria-label="Last page when"
              placeholder={`or when: $${stage.as}/more = 'false'`}
              key={pages.until}
              defaultValue={pages.until}
              onBlur={(e) =>
                e.target.value !== (pages.until ?? '') && set({ until: e.target.value || undefined })
              }
            />
          </div>
        </Form.Item>
      )}
    </>
  );
}
