import { Button, Drawer, Input, InputNumber, Segmented, Select } from 'antd';
import { useState } from 'react';
import { type Fill, freeId } from '../api/flow';
import type { OfferedOperation, SimulatorRule } from '../api/types';
import { FieldPick } from './FieldPick';

/** A rule being written: for which requests it holds, and what it answers. */
export function RuleDrawer({
  contract,
  operations,
  rule,
  onDone,
  onClose,
}: {
  contract: number;
  operations: OfferedOperation[];
  rule: SimulatorRule;
  onDone: (rule: SimulatorRule) => void;
  onClose: () => void;
}) {
  const [draft, setDraft] = useState(rule);
  const operation = operations.find((o) => o.key === draft.operation);
  const set = (part: Partial<SimulatorRule>) => setDraft({ ...draft, ...part });
  const matches = draft.matches ?? [];
  const fills = draft.fills ?? [];
  const message = draft.fault ? `fault:${draft.fault}` : 'reply';
  const typed = operation?.faults.includes(draft.fault ?? '') ?? false;
  const fill = (at: number, part: Partial<Fill>) =>
    set({ fills: fills.map((f, i) => (i === at ? { ...f, ...part } : f)) });
  // what begins with an equals sign is an expression over $request
  const value = (f: Fill) =>
    f.constant ?? (f.expression !== undefined ? `=${f.expression}` : f.wire ? `=${f.wire}` : '');
  const written = (text: string): Partial<Fill> =>
    text.startsWith('=')
      ? { constant: undefined, wire: undefined, expression: text.slice(1) }
      : { constant: text, wire: undefined, expression: undefined };
  return (
    <Drawer
      open
      onClose={onClose}
      size={720}
      title="Rule"
      extra={
        <Button
          type="primary"
          onClick={() =>
            onDone({
              ...draft,
              fills: fills.filter((f) => f.target),
              matches: matches.filter((m) => m.field),
            })
          }
        >
          Done
        </Button>
      }
    >
      <div className="stack loose">
        <div className="row">
          <span className="dim field-s">Operation</span>
          <Select
            size="small"
            aria-label="Operation of the rule"
            className="field-2xl"
            value={draft.operation || undefined}
            options={[...new Set(operations.map((o) => o.key))].map((value) => ({ value }))}
            onChange={(key: string) => setDraft({ operation: key, example: true })}
          />
        </div>
        <div>
          <b>When the request has</b> {matches.length === 0 && <span className="dim">— anything</span>}
          {matches.map((m, i) => (
            <div key={i} className="row gap-above-s">
              <FieldPick
                contract={contract}
                at={{ operation: draft.operation, message: 'request' }}
                label={`Field ${i + 1} compared`}
                value={m.field}
                onChange={(field) =>
                  set({ matches: matches.map((x, at) => (at === i ? { ...x, field } : x)) })
                }
              />
              <span className="dim">equal to</span>
              <Input
                size="small"
                className="mono field-xl"
                aria-label={`Value ${i + 1} compared`}
                placeholder="nothing: is not there"
                value={m.value}
                onChange={(e) =>
                  set({ matches: matches.map((x, at) => (at === i ? { ...x, value: e.target.value } : x)) })
                }
              />
              <Button
                size="small"
                type="text"
                aria-label={`Remove comparison ${i + 1}`}
                onClick={() => set({ matches: matches.filter((_, at) => at !== i) })}
              >
                ×
              </Button>
            </div>
          ))}
          <div>
            <button
              type="button"
              className="linkish gap-above-s"
              onClick={() => set({ matches: [...matches, { field: '', value: '' }] })}
            >
              Compare {matches.length > 0 ? 'another' : 'a'} field
            </button>
          </div>
        </div>
        <div>
          <div className="row">
            <b>Answer with</b>
            <Segmented
              size="small"
              value={draft.fault === undefined ? 'reply' : 'fault'}
              onChange={(v) =>
                set({ fault: v === 'fault' ? (operation?.faults[0] ?? 'Server') : undefined, fills: [] })
              }
              options={[
                { value: 'reply', label: 'a reply' },
                { value: 'fault', label: 'a fault' },
              ]}
            />
            {draft.fault !== undefined && (
              <Select
                size="small"
                aria-label="Fault"
                className="field-xl"
                value={draft.fault}
                options={[...(operation?.faults ?? []), 'Server'].map((value) => ({
                  value,
                  label: value === 'Server' ? 'a plain fault' : value,
                }))}
                onChange={(fault) => set({ fault, fills: [] })}
              />
            )}
          </div>
          {draft.fault !== undefined && (
            <Input
              size="small"
              className="field-4xl gap-above-s"
              aria-label="Reason"
              placeholder="the fault's text"
              value={draft.reason ?? ''}
              onChange={(e) => set({ reason: e.target.value })}
            />
          )}
          {(draft.fault === undefined || typed) && !operation?.oneWay && (
            <>
              {fills.map((f, i) => (
                <div key={f.id} className="row gap-above-s">
                  <FieldPick
                    contract={contract}
                    at={{ operation: draft.operation, message }}
                    label={`Field ${i + 1} answered`}
                    value={f.target}
                    onChange={(target) => fill(i, { target })}
                  />
                  <span className="dim">is</span>
                  {f.repeat ? (
                    <span className="mono dim">each of {f.repeat}</span>
                  ) : (
                    <Input
                      size="small"
                      className="mono field-2xl"
                      aria-label={`Value ${i + 1} answered`}
                      placeholder="value, or =expression"
                      value={value(f)}
                      onChange={(e) => fill(i, written(e.target.value))}
                    />
                  )}
                  <Button
                    size="small"
                    type="text"
                    aria-label={`Remove value ${i + 1}`}
                    onClick={() => set({ fills: fills.filter((_, at) => at !== i) })}
                  >
                    ×
                  </Button>
                </div>
              ))}
              <div className="row gap-above-s">
                <button
                  type="button"
                  className="linkish"
                  onClick={() =>
                    set({ fills: [...fills, { id: freeId(fills, 'v'), target: '', constant: '' }] })
                  }
                >
                  Set {fills.length > 0 ? 'another' : 'a'} field
                </button>
                <span className="dim">
                  {draft.example
                    ? 'what is not set comes from a valid example'
                    : 'what is not set is left out'}
                </span>
                <button type="button" className="linkish" onClick={() => set({ example: !draft.example })}>
                  {draft.example ? 'leave it out' : 'take it from an example'}
                </button>
              </div>
            </>
          )}
        </div>
        <div className="row">
          <b>After</b>{' '}
          <InputNumber
            size="small"
            min={0}
            max={600_000}
            suffix="ms"
            aria-label="Delay"
            className="field-m"
            value={draft.delayMillis ?? 0}
            onChange={(v) => set({ delayMillis: v || undefined })}
          />
        </div>
      </div>
    </Drawer>
  );
}
