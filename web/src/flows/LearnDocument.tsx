import { Alert, Input, Modal } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { CallStage, FlowFile } from '../api/flow';
import type { Learned } from '../api/types';

/** Returns the documents of a call with one added or put in the place of the one in the same field. */
export function withDocument(stage: CallStage, learned: Learned): CallStage {
  const d = learned.document;
  return {
    ...stage,
    documents: [...(stage.documents ?? []).filter((o) => o.path !== d.path || o.message !== d.message), d],
  };
}

/** Returns a call without the document in a field, and without what was filled in it. */
export function withoutDocument(stage: CallStage, message: string, path: string): CallStage {
  const documents = (stage.documents ?? []).filter((d) => d.path !== path || d.message !== message);
  const fills =
    message === 'request' ? stage.fills.filter((f) => !f.target.startsWith(`${path}/`)) : stage.fills;
  return { ...stage, documents, fills };
}

/** Makes a text field of the request hold a document: its shape comes from an example or an XML Schema. */
export function LearnDocument({
  flowId,
  file,
  stage,
  path,
  environment,
  onDone,
  onClose,
}: {
  flowId: number;
  file: FlowFile;
  stage: CallStage;
  path: string;
  environment: string;
  onDone: (stage: CallStage) => void;
  onClose: () => void;
}) {
  const [sample, setSample] = useState('');
  const [error, setError] = useState('');
  const [busy, setBusy] = useState(false);
  const learn = async () => {
    setBusy(true);
    try {
      onDone(
        withDocument(
          stage,
          await api.post<Learned>(`/flows/${flowId}/learn`, {
            file,
            environment,
            message: 'request',
            path,
            sample,
            stage: stage.id,
          }),
        ),
      );
    } catch (e) {
      setError(e instanceof Error ? e.message : String(e));
    } finally {
      setBusy(false);
    }
  };
  return (
    <Modal
      open
      width={620}
      title={`A document inside ${path.replace(/.*[/}]/, '')}`}
      okText="Fill it as a sheet"
      okButtonProps={{ disabled: !sample.trim(), loading: busy }}
      onOk={() => void learn()}
      onCancel={onClose}
    >
      <p className="dim flush-top">
        Paste an example as it is in the field – XML, JSON, or either of them compressed or in base64 – or its
        XML Schema. Its fields then appear below the field and are filled like any others.
      </p>
      <Input.TextArea
        className="mono"
        rows={11}
        aria-label="Example"
        value={sample}
        onChange={(e) => {
          setSample(e.target.value);
          setError('');
        }}
        placeholder="<manifest> … </manifest>"
      />
      {error && <Alert type="error" showIcon title={error} className="gap-above" />}
    </Modal>
  );
}
