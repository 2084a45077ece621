import { Input, Modal } from 'antd';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { BatchStage, CallStage, FlowFile, Rule, Stage, Verb } from '../api/flow';
import css from './flow.module.css';
import { mayBeUndone, ruleActions } from './rules';
import { VERBS } from './verbs';

/** What can be added: a stage of a verb, a rule for when a stage fails, or a file of everything that fails. */
export type Addition = Verb | `rule ${Rule['then']}` | 'rejected' | 'undo' | 'before' | 'after';

function undoneName(stage: CallStage | BatchStage): string {
  return stage.verb === 'Batch' ? 'an accepted record' : (stage.operation ?? 'the call');
}

/** One list of everything that can be added, searched by typing what it should do. */
export function AddStage({
  file,
  onAdd,
  onClose,
  rejected,
  failing,
}: {
  file: FlowFile;
  onAdd: (what: Addition) => void;
  onClose: () => void;
  rejected: boolean;
  failing: Stage | undefined;
}) {
  const [text, setText] = useState('');
  const [at, setAt] = useState(0);
  const field = useRef<{ focus: () => void }>(null);
  const choices = useMemo(() => {
    const all: { what: Addition; name: string; does: string }[] = [
      ...(Object.keys(VERBS) as Verb[])
        .filter((v) => VERBS[v].make !== null)
        .map((v) => ({ what: v, name: v as string, does: VERBS[v].does })),
      ...(failing
        ? ruleActions(failing).map((action) => ({
            what: `rule ${action.value}` as const,
            name: `When ${failing.verb} fails`,
            does: action.label,
          }))
        : []),
      ...(failing && mayBeUndone(file, failing)
        ? [
            {
              what: 'undo' as const,
              name: 'An undo',
              does: `Takes ${undoneName(failing)} back when its record is rejected later`,
            },
          ]
        : []),
      {
        what: 'before' as const,
        name: 'Before the first record',
        does: 'Calls something once: what it makes is in reach of all records',
      },
      {
        what: 'after' as const,
        name: 'After the last record',
        does: 'Calls something once when all records have an end, with what the run has come to',
      },
      ...(rejected
        ? [
            {
              what: 'rejected' as const,
              name: 'A file of rejected records',
              does: 'Writes every record that fails at any stage, with the reason',
            },
          ]
        : []),
    ];
    const wanted = text.trim().toLowerCase();
    return all.filter((c) => !wanted || `${c.name} ${c.does}`.toLowerCase().includes(wanted));
  }, [file, text, rejected, failing]);
  useEffect(() => {
    setAt(0);
  }, [text]);
  useEffect(() => {
    field.current?.focus();
  }, []);
  return (
    <Modal
      open
      title="Add a stage or a rule"
      footer={null}
      onCancel={onClose}
      width={520}
      destroyOnHidden
      afterOpenChange={(open) => open && field.current?.focus()}
    >
      <Input
        ref={field as never}
        aria-label="Find a verb"
        placeholder="what should it do?"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown') setAt((n) => Math.min(choices.length - 1, n + 1));
          else if (e.key === 'ArrowUp') setAt((n) => Math.max(0, n - 1));
          else if (e.key === 'Enter' && choices[at]) onAdd(choices[at].what);
          else return;
          e.preventDefault();
        }}
      />
      <div role="listbox" aria-label="Verbs" className={css.verbList}>
        {choices.map((c, i) => (
          <button
            key={c.what}
            type="button"
            role="option"
            aria-selected={i === at}
            className={`${css.verb} ${i === at ? css.verbOn : ''}`}
            onMouseEnter={() => setAt(i)}
            onClick={() => onAdd(c.what)}
          >
            <b>{c.name}</b> <span className="dim">{c.does}</span>
          </button>
        ))}
        {choices.length === 0 && <p className="dim">Nothing does that.</p>}
      </div>
    </Modal>
  );
}
