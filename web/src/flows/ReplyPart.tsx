import { App, Button, Input } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import { type CallStage, type FlowFile, freeId } from '../api/flow';
import type { Learned, Preview, SheetRow } from '../api/types';
import { MessageSheet } from '../shared/MessageSheet';
import { ExpressionStrip, type Try } from './ExpressionStrip';
import { withDocument, withoutDocument } from './LearnDocument';
import { useContractId } from './useChoices';
import { VariableName } from './VariableName';

/** The reply: its name in the flow, when it counts as failed, its fields, and the documents some of them hold. */
export function ReplyPart({
  flowId,
  file,
  environment,
  stage,
  preview,
  onChange,
  onVariable,
  onTry,
}: {
  flowId: number;
  file: FlowFile;
  environment: string;
  stage: CallStage;
  preview: Preview | undefined;
  onChange: (stage: CallStage) => void;
  onVariable: (name: string) => void;
  onTry: Try;
}) {
  const { message, modal } = App.useApp();
  const contract = useContractId(stage);
  const [typed, setTyped] = useState<string>();
  const [busy, setBusy] = useState<string>();
  const conditions = stage.delivery.failedWhen;
  const set = (failedWhen: CallStage['delivery']['failedWhen']) =>
    onChange({ ...stage, delivery: { ...stage.delivery, failedWhen } });
  const learn = async (row: SheetRow) => {
    setBusy(row.path);
    try {
      const learned = await api.post<Learned>(`/flows/${flowId}/learn`, {
        file,
        environment,
        message: 'reply',
        path: row.path,
        stage: stage.id,
      });
      onChange(withDocument(stage, learned));
      const from = `from ${learned.from} kept ${learned.from === 1 ? 'text' : 'texts'}`;
      if (!row.document)
        void message.success(`${String(learned.document.form).toUpperCase()} learned ${from}`);
      else if (learned.news.length === 0) void message.info(`Nothing new ${from}`);
      else
        modal.info({
          title: `Learned again ${from}`,
          content: learned.news.slice(0, 14).map((n) => (
            <div key={n} className="mono">
              {n}
            </div>
          )),
        });
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e), 6);
    } finally {
      setBusy(undefined);
    }
  };
  return (
    <div className="column fills holds">
      <div className="pad-l underlined">
        <label className="row">
          Later stages know the reply as{' '}
          <VariableName small label="Reply variable" value={stage.as} onRename={onVariable} />
        </label>
        <h3 className="h-small gap-around">Counts as failed when …</h3>
        {conditions.map((c) => (
          <div key={c.id} className="row gap-below-s">
            <Input
              size="small"
              className="mono fills-3"
              aria-label="Condition"
              defaultValue={c.expression}
              placeholder={`$${stage.as}/status = 'suspended'`}
              onFocus={() => setTyped(c.expression)}
              onChange={(e) => setTyped(e.target.value)}
              onBlur={(e) => {
                setTyped(undefined);
                if (e.target.value !== c.expression)
                  set(conditions.map((o) => (o.id === c.id ? { ...o, expression: e.target.value } : o)));
              }}
            />
            <Input
              size="small"
              aria-label="Message"
              defaultValue={c.message}
              placeholder="what it means"
              className="fills-2"
              onBlur={(e) =>
                e.target.value !== c.message &&
                set(conditions.map((o) => (o.id === c.id ? { ...o, message: e.target.value } : o)))
              }
            />
            <Button
              size="small"
              type="text"
              danger
              onClick={() => set(conditions.filter((o) => o.id !== c.id))}
            >
              Remove
            </Button>
            {preview?.problems
              .filter((p) => p.fillId === c.id)
              .map((p) => (
                <span key={p.message} className="bad">
                  {p.message}
                </span>
              ))}
          </div>
        ))}
        <Button
          size="small"
          onClick={() =>
            set([
              ...conditions,
              { id: freeId(conditions, 'c'), expression: `$${stage.as}/… = ''`, message: '' },
            ])
          }
        >
          Add a condition
        </Button>
      </div>
      {contract !== undefined && stage.operation && (
        <MessageSheet
          contract={contract}
          at={{ service: stage.service, port: stage.port, operation: stage.operation, message: 'reply' }}
          documents={stage.documents}
          action={(row) => (
            <>
              {row.document && <span className="chip">{row.document.toUpperCase()}</span>}
              {(row.document ||
                (row.leaf && row.kind === 'element' && /^(string|base64|any)/.test(row.type))) && (
                <Button
                  size="small"
                  type="text"
                  loading={busy === row.path}
                  className="small pad-tight"
                  title="learn the document in this text from kept replies; its fields then appear below it"
                  onClick={() => void learn(row)}
                >
                  {row.document ? 'learn again' : 'holds a document: learn it'}
                </Button>
              )}
              {row.document && (
                <Button
                  size="small"
                  type="text"
                  className="small pad-tight"
                  onClick={() => onChange(withoutDocument(stage, 'reply', row.path))}
                >
                  as text again
                </Button>
              )}
            </>
          )}
        />
      )}
      {typed !== undefined && <ExpressionStrip text={typed} onTry={onTry} onReplace={setTyped} />}
    </div>
  );
}
