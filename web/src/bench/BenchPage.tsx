import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Input, Segmented, Select, Skeleton, Tooltip } from 'antd';
import { useEffect, useRef, useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { api, ApiProblem, query } from '../api/client';
import type { BenchCall, Contract, Endpoint } from '../api/types';
import { SIMULATOR, useEnvironment, useEnvironments, useLive } from '../shared/environment';
import { MessageSheet } from '../shared/MessageSheet';
import { SidePane, Trouble } from '../shared/parts';
import { useKeys } from '../shared/useKeys';
import css from './BenchPage.module.css';
import { BenchHistory } from './BenchHistory';
import { ReplyView } from './ReplyView';
import { settingsWords } from '../settings/endpointWords';
import { curl } from './curl';
import { useRequest } from './useRequest';
import { ValueCell } from './ValueCell';

/** One operation tried by hand: its request as sheet and text, the reply beside it, every call kept. */
export function BenchPage() {
  const { id } = useParams();
  const contractId = Number(id);
  const client = useQueryClient();
  const { modal, message } = App.useApp();
  const environment = useEnvironment();
  const live = useLive();
  // where something new is tried
  const first = useEnvironments().find((e) => !e.live && e.name !== SIMULATOR)?.name;
  const [search, setSearch] = useSearchParams();
  const [side, setSide] = useState<'Sheet' | 'Text'>('Sheet');
  const [callId, setCallId] = useState<number>();
  const [error, setError] = useState<unknown>();
  const contract = useQuery({
    queryKey: ['contract', id],
    queryFn: () => api.get<Contract>(`/contracts/${id}`),
  });
  const endpoints = useQuery({ queryKey: ['endpoints'], queryFn: () => api.get<Endpoint[]>('/endpoints') });
  const operation =
    contract.data?.operations.find(
      (o) => o.port === search.get('port') && o.key === search.get('operation'),
    ) ?? contract.data?.operations.find((o) => o.callable);
  const [endpoint, setEndpoint] = useState<string>();
  const chosen = endpoint ?? contract.data?.name;
  const at = { service: operation?.service, port: operation?.port, operation: operation?.key };
  const { request, settled, setText, setValue, setPicks } = useRequest({
    contract: contractId,
    ...at,
    endpoint: chosen,
  });
  const key = `${operation?.port} ${operation?.key}`;
  const started = useRef('');
  const call = useQuery({
    queryKey: ['bench-call', callId],
    queryFn: () => api.get<BenchCall>(`/bench/calls/${callId}`),
    enabled: callId !== undefined,
    refetchInterval: (q) => (q.state.data?.state === 'running' ? 200 : false),
  });
  const running = call.data?.state === 'running';
  // nothing can be typed or sent before the first message is there, or it would be overwritten
  const [ready, setReady] = useState('');
  const loaded = ready === key;
  useEffect(() => {
    if (!operation || started.current === key) return;
    started.current = key;
    setCallId(undefined);
    // a new operation begins with its smallest valid message
    void api
      .get<{ text: string }>(`/contracts/${id}/example${query({ ...at, message: 'request' })}&complete=false`)
      .then((e) => {
        setText(e.text, 0);
        setReady(key);
      }, setError);
    // only another operation starts afresh
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, operation]);
  useEffect(() => {
    if (call.data && !running) void client.invalidateQueries({ queryKey: ['bench-history'] });
  }, [call.data, running, client]);

  // the first value can be typed at once
  const page = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!loaded) return undefined;
    let turns = 0;
    const rows = window.setInterval(() => {
      const first = page.current?.querySelector<HTMLInputElement>('[role=treeitem] input');
      // its value of the example comes a moment later
      if (!first || (first.value === '' && ++turns < 30)) return;
      window.clearInterval(rows);
      if (document.activeElement === document.body) first.select();
    }, 50);
    return () => window.clearInterval(rows);
  }, [loaded, key]);

  const send = async (confirmed = false): Promise<void> => {
    if (!operation || !chosen || !loaded) return;
    setError(undefined);
    try {
      const made = await api.post<BenchCall>('/bench/calls', {
        contract: contractId,
        ...at,
        endpoint: chosen,
        environment,
        text: await settled(),
        confirmed,
      });
      if (!reached) await client.invalidateQueries({ queryKey: ['endpoints'] });
      client.setQueryData(['bench-call', made.id], made);
      setCallId(made.id);
    } catch (e) {
      if (e instanceof ApiProblem && e.code === 'confirm-call') {
        modal.confirm({
          title: `Call ${operation.key}?`,
          content: e.message,
          okText: `Call it in ${environment}`,
          okButtonProps: { danger: live(environment) },
          onOk: () => send(true),
        });
      } else if (e instanceof ApiProblem && e.code === 'host-not-allowed') {
        modal.confirm({
          title: 'This host is not allowed yet',
          content: e.message,
          okText: `Allow ${String(e.body.host)} and send`,
          onOk: async () => {
            await api.post('/allowed-hosts', { host: e.body.host });
            await send(confirmed);
          },
        });
      } else setError(e);
    }
  };
  useKeys({ 'Ctrl+Enter': () => void send() }, ['Ctrl+Enter']);
  if (contract.isPending)
    return (
      <div className="page">
        <Skeleton active />
      </div>
    );
  if (!contract.data || !operation)
    return (
      <div className="page">
        <Trouble error={contract.error ?? new Error('This contract has no operation that can be called.')} />
      </div>
    );
  const values = new Map(request.fills.map((f) => [f.target, f.constant ?? '']));
  const wrong = new Map(request.fields.map((p) => [p.field, p.message]));
  const bare = (target: string) => target.replace(/\{[^}]*\}/g, '');
  const picks = request.fills.filter((f) => f.pick || /[~#]/.test(bare(f.target))).map((f) => f.target);
  const reached = endpoints.data?.find((e) => e.name === chosen);
  // a contract nobody set an address for is tried where it says it is
  const address =
    reached?.environments[environment]?.address ||
    (environment === first && chosen === contract.data.name ? operation.address : undefined);
  const words = settingsWords(reached?.environments[environment]?.settings ?? {});
  return (
    <div className={css.page} ref={page}>
      <div className={css.head}>
        <Link to={`/contracts/${id}?port=${operation.port}&operation=${encodeURIComponent(operation.key)}`}>
          <b>{contract.data.name}</b>
        </Link>
        <Select
          size="small"
          variant="filled"
          showSearch={{ optionFilterProp: 'label' }}
          aria-label="Operation"
          popupMatchSelectWidth={false}
          className="pick-l"
          value={`${operation.port}|${operation.key}`}
          options={contract.data.operations
            .filter((o) => o.callable)
            .map((o) => ({ value: `${o.port}|${o.key}`, label: `${o.key} · ${o.port}` }))}
          onChange={(v: string) => setSearch({ port: v.split('|')[0], operation: v.split('|')[1] })}
        />
        <span className="dim">
          {operation.protocol} · {operation.effect === 'reads' ? 'reads' : 'changes data'} · to
        </span>
        <Select
          size="small"
          variant="filled"
          aria-label="Endpoint"
          popupMatchSelectWidth={false}
          className="pick"
          value={chosen}
          options={endpoints.data?.map((e) => ({ value: e.name, label: e.name }))}
          notFoundContent="no endpoint yet"
          onChange={setEndpoint}
        />
        {reached ? (
          <Link
            to={`/endpoints/${reached.id}?environment=${environment}`}
            className="mono faint clip grow plain-link"
            title={`${address ?? ''} ${words}`}
          >
            {address || `no address in ${environment}: set it`}
            {words && ` · ${words}`}
          </Link>
        ) : (
          <span className="mono faint clip grow">{address}</span>
        )}
        <Button
          size="small"
          onClick={() => {
            void navigator.clipboard?.writeText(
              curl(
                operation,
                address ?? '',
                request.text,
                reached?.environments[environment]?.settings ?? {},
              ),
            );
            void message.success('Copied as a curl command');
          }}
        >
          Copy as curl
        </Button>
        {running ? (
          <Button danger onClick={() => void api.post(`/bench/calls/${callId}/cancel`)}>
            Cancel
          </Button>
        ) : (
          <Tooltip title="Ctrl Enter">
            <Button type="primary" disabled={!loaded} danger={live(environment)} onClick={() => void send()}>
              Send in {environment}
            </Button>
          </Tooltip>
        )}
      </div>
      <div className={css.body}>
        <div className={css.side}>
          <div className={css.tools}>
            <b>Request</b>
            <Segmented<'Sheet' | 'Text'>
              size="small"
              value={side}
              onChange={setSide}
              options={['Sheet', 'Text']}
            />
            <span className="grow" />
            {!loaded ? (
              <span className="dim">reading the contract …</span>
            ) : request.fields.length + request.problems.length > 0 ? (
              <span className="bad">
                {request.fields.length + request.problems.length}{' '}
                {request.fields.length + request.problems.length === 1 ? 'problem' : 'problems'}
              </span>
            ) : (
              <span className="dim">ready</span>
            )}
          </div>
          <Trouble error={error} />
          {!loaded ? (
            <Skeleton active className="pad-l" />
          ) : side === 'Sheet' ? (
            <MessageSheet
              contract={contractId}
              at={{ ...at, message: 'request' }}
              picks={picks}
              onPicks={(after) => setPicks(picks, after)}
              cell={(row) => (
                <ValueCell
                  row={row}
                  value={values.get(row.path)}
                  wrong={wrong.get(row.path)}
                  onChange={(v) => setValue(row.path, v)}
                />
              )}
            />
          ) : (
            <Input.TextArea
              className={`mono ${css.text}`}
              aria-label="Envelope"
              spellCheck={false}
              value={request.text}
              onChange={(e) => setText(e.target.value)}
            />
          )}
          {side === 'Text' && request.fields.length > 0 && (
            <div className={css.problems}>
              {request.fields.map((p) => (
                <div key={p.field}>
                  <b>
                    {p.field
                      .replace(/\{[^}]*\}/g, '')
                      .split('/')
                      .pop()}
                  </b>{' '}
                  {p.message}
                </div>
              ))}
            </div>
          )}
          {request.text.includes('•••••') && (
            <div className={css.problems}>
              ••••• replaces a secret that was hidden when this call was kept: enter it again before sending.
            </div>
          )}
          {request.problems.length > 0 && (
            <div className={css.problems}>
              {request.problems.map((p) => (
                <div key={p}>{p}</div>
              ))}
              {request.line > 0 && (
                <div>The sheet shows the text as it was before; the text can still be sent.</div>
              )}
            </div>
          )}
        </div>
        <ReplyView contract={contractId} at={at} call={call.data} endpoint={reached?.id} />
        <SidePane name="bench-history" side="right" start={230} min={160} max={420}>
          <BenchHistory
            contract={contractId}
            port={operation.port}
            operation={operation.key}
            shown={callId}
            onOpen={(c) => {
              setCallId(c.id);
              setText(c.request, 0);
            }}
          />
        </SidePane>
      </div>
    </div>
  );
}
