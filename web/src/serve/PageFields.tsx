import { useQuery } from '@tanstack/react-query';
import { Button, Checkbox, Form, Input, Select } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { Flow, ReadStage } from '../api/flow';
import type { CodeTableSummary, Dataset, Page, TriggerSpec } from '../api/types';

type AskPage = NonNullable<TriggerSpec['page']>;
type AskField = NonNullable<AskPage['fields']>[number];

/** The page on which people type what they ask. */
export function PageFields({
  flowId,
  spec,
  set,
}: {
  flowId: string;
  spec: TriggerSpec;
  set: (part: Partial<TriggerSpec>) => void;
}) {
  const page = spec.page;
  const change = (part: Partial<AskPage>) => set({ page: { ...page, ...part } });
  return (
    <>
      <Form.Item label="A page for people">
        <Checkbox
          checked={Boolean(page)}
          onChange={(e) => set({ page: e.target.checked ? { fields: [] } : undefined })}
        >
          they type what is sent, or paste rows, and see what comes back
        </Checkbox>
      </Form.Item>
      {page && (
        <>
          <Form.Item label="Title">
            <Input
              aria-label="Title of the page"
              placeholder="the flow’s name"
              value={page.title}
              onChange={(e) => change({ title: e.target.value || undefined })}
            />
          </Form.Item>
          <Form.Item label="Note">
            <Input.TextArea
              aria-label="Note on the page"
              placeholder="what it is for, and what to know"
              autoSize={{ minRows: 1, maxRows: 4 }}
              value={page.note}
              onChange={(e) => change({ note: e.target.value || undefined })}
            />
          </Form.Item>
          <Form.Item
            label="Fields"
            extra="Whoever may run here finds it under Pages; others get a link with a key."
          >
            <Fields flowId={flowId} all={page.fields ?? []} change={(fields) => change({ fields })} />
          </Form.Item>
        </>
      )}
    </>
  );
}

function Fields({
  flowId,
  all,
  change,
}: {
  flowId: string;
  all: AskField[];
  change: (all: AskField[]) => void;
}) {
  const flow = useQuery({ queryKey: ['flow', flowId], queryFn: () => api.get<Flow>(`/flows/${flowId}`) });
  const [open, setOpen] = useState<string>();
  const input = (flow.data?.file.stages[0] as ReadStage | undefined)?.input;
  const columns = input?.columns ?? [];
  if (
    flow.data &&
    (columns.length === 0 || input?.lists?.length || columns.some((c) => c.name.includes('/')))
  ) {
    return (
      <span className="bad">
        What this flow is sent has lists or levels, or no fields: it can have no page.
      </span>
    );
  }
  const set = (name: string, part: Partial<AskField>) => {
    const known = all.find((f) => f.name === name);
    const now = { ...known, ...part, name };
    change(known ? all.map((f) => (f.name === name ? now : f)) : [...all, now]);
  };
  return (
    <div className="stack">
      {columns.map((c) => {
        const its = all.find((f) => f.name === c.name);
        const said = its && [
          its.preset && `preset ${its.preset}`,
          its.codes ?? its.dataset,
          its.hidden && 'not shown',
        ];
        return (
          <div key={c.name}>
            <div className="row">
              <Input
                aria-label={`Label of ${c.name}`}
                className="grow"
                placeholder={c.label}
                value={its?.label}
                onChange={(e) => set(c.name, { label: e.target.value || undefined })}
              />
              <span className="dim mono field-xl clip">{c.name}</span>
              <span className="dim clip">{said?.filter(Boolean).join(', ')}</span>
              <Button
                size="small"
                type="text"
                aria-label={`More of ${c.name}`}
                onClick={() => setOpen(open === c.name ? undefined : c.name)}
              >
                {open === c.name ? 'Less' : 'More'}
              </Button>
            </div>
            {open === c.name && <More field={its ?? { name: c.name }} set={(part) => set(c.name, part)} />}
          </div>
        );
      })}
    </div>
  );
}

function More({ field, set }: { field: AskField; set: (part: Partial<AskField>) => void }) {
  const codes = useQuery({
    queryKey: ['code-tables', 'choices'],
    queryFn: () => api.get<Page<CodeTableSummary>>('/code-tables?size=500'),
  });
  const datasets = useQuery({
    queryKey: ['datasets', 'choices'],
    queryFn: () => api.get<Page<Dataset>>('/datasets?size=500'),
  });
  const layout = datasets.data?.items.find((d) => d.name === field.dataset)?.columns;
  const columns = (layout ?? []).map((c) => ({ value: c.name, label: c.label }));
  const from = field.codes ? `codes ${field.codes}` : field.dataset ? `dataset ${field.dataset}` : undefined;
  return (
    <div className="stack gap-below-s gap-above-s">
      <Input
        aria-label={`Help for ${field.name}`}
        placeholder="help beside the field"
        value={field.help}
        onChange={(e) => set({ help: e.target.value || undefined })}
      />
      <div className="row">
        <Input
          className="grow"
          aria-label={`Preset of ${field.name}`}
          placeholder="what stands in it at first"
          value={field.preset}
          onChange={(e) => set({ preset: e.target.value || undefined })}
        />
        <Checkbox
          checked={field.hidden ?? false}
          onChange={(e) => set({ hidden: e.target.checked || undefined })}
        >
          not shown
        </Checkbox>
      </div>
      <Select
        allowClear
        showSearch
        aria-label={`Picked from, for ${field.name}`}
        placeholder="typed freely"
        value={from}
        onChange={(value: string | undefined) => {
          const [kind, ...name] = (value ?? '').split(' ');
          set({
            codes: kind === 'codes' ? name.join(' ') : undefined,
            dataset: kind === 'dataset' ? name.join(' ') : undefined,
            column: undefined,
            shown: undefined,
          });
        }}
        options={[
          {
            label: 'Code tables',
            options: (codes.data?.items ?? []).map((t) => ({ value: `codes ${t.name}`, label: t.name })),
          },
          {
            label: 'Datasets',
            options: (datasets.data?.items ?? []).map((d) => ({ value: `dataset ${d.name}`, label: d.name })),
          },
        ]}
      />
      {field.dataset && (
        <div className="row">
          <Select
            className="grow"
            aria-label={`Column of ${field.name}`}
            placeholder="the column with the values"
            value={field.column}
            onChange={(column: string) => set({ column })}
            options={columns}
          />
          <Select
            allowClear
            className="grow"
            aria-label={`Shown for ${field.name}`}
            placeholder="and what is shown with them"
            value={field.shown}
            onChange={(shown?: string) => set({ shown })}
            options={columns}
          />
        </div>
      )}
    </div>
  );
}
