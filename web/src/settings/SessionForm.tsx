import { Button, Input, InputNumber, Select, Switch } from 'antd';
import { useState, type ReactNode } from 'react';
import type { EndpointSettings, OfferedOperation } from '../api/types';
import { useContracts, useOperations } from '../flows/useChoices';
import css from './EndpointPage.module.css';
import { SignOnSheet } from './SignOnSheet';

type Session = NonNullable<EndpointSettings['session']>;

const BODY = '<SignOn xmlns="…"><user>…</user><password>{secret:name}</password></SignOn>';

/** The session calls are made in: what signs on, where the token is, how long it lives, and what ends it. */
export function SessionForm({
  session,
  row,
  onChange,
}: {
  session: Session | undefined;
  row: (label: string, children: ReactNode) => ReactNode;
  onChange: (session: Session | undefined) => void;
}) {
  const change = (part: Partial<Session>) => onChange({ ...session, ...part });
  const refused = session?.refused ?? {};
  const setRefused = (part: Partial<typeof refused>) => change({ refused: { ...refused, ...part } });
  return (
    <section>
      <h3>Session</h3>
      {row(
        'Calls are made',
        <>
          <Switch
            size="small"
            aria-label="In a session"
            checked={session !== undefined}
            onChange={(on) => onChange(on ? {} : undefined)}
          />{' '}
          <span className="dim">in a session, which all runs and callers share</span>
        </>,
      )}
      {session && (
        <>
          {row(
            'Signs on with',
            <div className="stack tight fills">
              <FromContract
                body={session.signOn}
                onPick={(operation, body) =>
                  change({
                    operation: operation.key,
                    action: operation.action ?? '',
                    soap12: operation.soapVersion === '1.2' || undefined,
                    signOn: body,
                  })
                }
              />
              <Message
                label="Sign-on message"
                placeholder={BODY}
                value={session.signOn}
                onChange={(signOn) => change({ signOn })}
              />
              <Action
                label="Sign-on action"
                value={session.action}
                onChange={(action) => change({ action })}
              />
            </div>,
          )}
          {row(
            'The token is',
            <>
              <Input
                size="small"
                className="mono field-xl"
                aria-label="Token"
                placeholder="session/token, in the reply"
                value={session.token ?? ''}
                onChange={(e) => change({ token: e.target.value || undefined })}
              />{' '}
              <span className="dim">
                and stands where a SOAP header, an HTTP header or a field of a message says{' '}
                <span className="mono">{'{session}'}</span>
              </span>
            </>,
          )}
          {row(
            'It lives',
            <>
              <InputNumber
                size="small"
                className="field-m"
                aria-label="Life"
                placeholder="until refused"
                suffix="s"
                min={1}
                value={session.lifetimeSeconds}
                onChange={(v) => change({ lifetimeSeconds: v ?? undefined })}
              />{' '}
              <span className="dim">or as many seconds as the reply says at</span>{' '}
              <Input
                size="small"
                className="mono field-l"
                aria-label="Life in the reply"
                placeholder="session/seconds"
                value={session.lifetimeAt ?? ''}
                onChange={(e) => change({ lifetimeAt: e.target.value || undefined })}
              />
            </>,
          )}
          {row(
            'Refused when',
            <>
              <Select
                mode="tags"
                size="small"
                className="field-m"
                aria-label="Statuses that refuse the session"
                placeholder="HTTP 401, …"
                value={(refused.statuses ?? []).map(String)}
                onChange={(all: string[]) =>
                  setRefused({ statuses: all.map(Number).filter((n) => Number.isInteger(n)) })
                }
              />{' '}
              <Select
                mode="tags"
                size="small"
                className="field-l"
                aria-label="Faults that refuse the session"
                placeholder="fault or its code, …"
                value={refused.faults ?? []}
                onChange={(faults: string[]) => setRefused({ faults })}
              />{' '}
              <Input
                size="small"
                className="field-xl"
                aria-label="Text that refuses the session"
                placeholder="text in the reason"
                value={refused.text ?? ''}
                onChange={(e) => setRefused({ text: e.target.value || undefined })}
              />
            </>,
          )}
          {row(
            'Farewell',
            <div className="stack tight fills">
              <Message
                label="Farewell message"
                placeholder={'<SignOff xmlns="…"><token>{session}</token></SignOff>'}
                value={session.farewell}
                onChange={(farewell) => change({ farewell })}
              />
              <Action
                label="Farewell action"
                value={session.farewellAction}
                onChange={(farewellAction) => change({ farewellAction })}
              />
            </div>,
          )}
        </>
      )}
    </section>
  );
}

function Message({
  label,
  placeholder,
  value,
  onChange,
}: {
  label: string;
  placeholder: string;
  value: string | undefined;
  onChange: (text: string | undefined) => void;
}) {
  return (
    <Input.TextArea
      className="mono"
      size="small"
      aria-label={label}
      autoSize={{ minRows: 1, maxRows: 10 }}
      placeholder={placeholder}
      value={value ?? ''}
      onChange={(e) => onChange(e.target.value || undefined)}
    />
  );
}

function Action({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string | undefined;
  onChange: (text: string | undefined) => void;
}) {
  return (
    <Input
      size="small"
      className="mono field-3xl"
      aria-label={label}
      prefix={<span className="faint">action</span>}
      value={value ?? ''}
      onChange={(e) => onChange(e.target.value || undefined)}
    />
  );
}

/** Takes the operation that signs on from a contract, and fills its message as a sheet. */
function FromContract({
  body,
  onPick,
}: {
  body: string | undefined;
  onPick: (operation: OfferedOperation, body: string) => void;
}) {
  const contracts = useContracts();
  const [contract, setContract] = useState<string>();
  const [operation, setOperation] = useState<OfferedOperation>();
  const operations = useOperations(contract);
  const id = contracts.find((c) => c.name === contract)?.id;
  return (
    <span className={css.value}>
      <Select
        size="small"
        aria-label="Contract of the sign-on"
        className="field-xl"
        showSearch
        placeholder="fill an operation of …"
        value={contract}
        options={contracts.map((c) => ({ value: c.name, label: c.name }))}
        onChange={setContract}
      />{' '}
      {contract && (
        <Select
          size="small"
          aria-label="Operation that signs on"
          className="field-xl"
          showSearch
          placeholder="operation"
          value={null}
          options={operations
            .filter((o) => o.callable)
            .map((o) => ({ value: `${o.service}|${o.port}|${o.key}`, label: o.key }))}
          onChange={(key: string) =>
            setOperation(operations.find((o) => `${o.service}|${o.port}|${o.key}` === key))
          }
        />
      )}
      {contract && (
        <Button size="small" type="text" onClick={() => setContract(undefined)}>
          Cancel
        </Button>
      )}
      {operation && id !== undefined && (
        <SignOnSheet
          contract={id}
          operation={operation}
          body={body?.includes(operation.key) ? body : undefined}
          onBody={(filled) => {
            onPick(operation, filled);
            setOperation(undefined);
          }}
          onClose={() => setOperation(undefined)}
        />
      )}
    </span>
  );
}
