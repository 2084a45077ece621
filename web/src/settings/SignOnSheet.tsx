import { useQuery } from '@tanstack/react-query';
import { Modal, Select, Skeleton } from 'antd';
import { useEffect, useRef, useState } from 'react';
import { api, query } from '../api/client';
import type { OfferedOperation, Secret } from '../api/types';
import { useRequest } from '../bench/useRequest';
import { ValueCell } from '../bench/ValueCell';
import { MessageSheet } from '../shared/MessageSheet';
import { Trouble } from '../shared/parts';

/** The message that signs on, as a sheet: each field takes a text, or a secret by name. */
export function SignOnSheet({
  contract,
  operation,
  body,
  onBody,
  onClose,
}: {
  contract: number;
  operation: OfferedOperation;
  /** What the message says now; the operation's example where it says nothing. */
  body: string | undefined;
  onBody: (body: string) => void;
  onClose: () => void;
}) {
  const at = { service: operation.service, port: operation.port, operation: operation.key };
  const { request, settled, setText, setValue, setPicks } = useRequest({ contract, ...at });
  const [ready, setReady] = useState(false);
  const [error, setError] = useState<unknown>();
  const secrets = useQuery({ queryKey: ['secrets'], queryFn: () => api.get<Secret[]>('/secrets') });
  const started = useRef(false);
  useEffect(() => {
    if (started.current) return;
    started.current = true;
    void api
      .get<{ text: string }>(`/contracts/${contract}/example${query({ ...at, complete: true })}`)
      .then((example) => {
        setText(body ? withBody(example.text, body) : example.text, 0);
        setReady(true);
      }, setError);
    // the sheet is opened for one operation
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  const values = new Map(request.fills.map((f) => [f.target, f.constant ?? '']));
  const wrong = new Map(request.fields.map((p) => [p.field, p.message]));
  const picks = request.fills
    .filter((f) => f.pick || /[~#]/.test(f.target.replace(/\{[^}]*\}/g, '')))
    .map((f) => f.target);
  const take = async () => {
    try {
      onBody(bodyOf(await settled()));
    } catch (e) {
      setError(e);
    }
  };
  return (
    <Modal
      open
      width={860}
      title={`What ${operation.key} is filled with`}
      okText="Use it"
      onOk={() => void take()}
      onCancel={onClose}
    >
      <Trouble error={error} />
      {!ready ? (
        <Skeleton active />
      ) : (
        <div className="short-list column">
          <MessageSheet
            contract={contract}
            at={{ ...at, message: 'request' }}
            picks={picks}
            onPicks={(after) => setPicks(picks, after)}
            cell={(row) => (
              <>
                <ValueCell
                  row={row}
                  value={values.get(row.path)}
                  wrong={/^\{secret:/.test(values.get(row.path) ?? '') ? undefined : wrong.get(row.path)}
                  onChange={(v) => setValue(row.path, v)}
                />
                <Select
                  size="small"
                  aria-label={`secret for ${row.name}`}
                  className="field-m"
                  placeholder="a secret"
                  value={null}
                  options={secrets.data
                    ?.filter((s) => s.kind === 'text')
                    .map((s) => ({ value: s.name, label: s.name }))}
                  onChange={(name: string) => setValue(row.path, `{secret:${name}}`)}
                />
              </>
            )}
          />
        </div>
      )}
    </Modal>
  );
}

function bodyElement(document: Document): Element | undefined {
  return [...document.getElementsByTagName('*')].find((each) => each.localName === 'Body');
}

/** Returns what stands in the body of an envelope, as text. */
function bodyOf(envelope: string): string {
  const first = bodyElement(new DOMParser().parseFromString(envelope, 'application/xml'))?.firstElementChild;
  return first ? new XMLSerializer().serializeToString(first) : '';
}

/** Returns an envelope with another message in its body. */
function withBody(envelope: string, body: string): string {
  const document = new DOMParser().parseFromString(envelope, 'application/xml');
  const message = new DOMParser().parseFromString(body, 'application/xml').documentElement;
  bodyElement(document)?.replaceChildren(document.importNode(message, true));
  return new XMLSerializer().serializeToString(document);
}
