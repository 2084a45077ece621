import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Drawer, Segmented, Skeleton, Switch, Tabs, Tooltip } from 'antd';
import { useState } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import { api, query } from '../api/client';
import type { Contract, Finding, OfferedOperation, Page, Simulator } from '../api/types';
import { OfferDialog } from '../serve/OfferDialog';
import { MessageSheet } from '../shared/MessageSheet';
import { SidePane, Trouble } from '../shared/parts';
import { useKeys } from '../shared/useKeys';
import { useMe } from '../shared/useMe';
import css from './ContractPage.module.css';
import { Findings } from './Findings';
import { ImportContract } from './ImportContract';
import { NumberedText } from './NumberedText';
import { OperationList } from './OperationList';
import { Revisions } from './Revisions';

/** Operations on the left, the chosen one's message sheets in the middle, an example on the right. */
export function ContractPage() {
  const { id } = useParams();
  const navigate = useNavigate();
  const client = useQueryClient();
  const { modal, message } = App.useApp();
  const [search, setSearch] = useSearchParams();
  const [shown, setShown] = useState('request');
  const [complete, setComplete] = useState(true);
  const [picks, setPicks] = useState<string[]>([]);
  const [refreshing, setRefreshing] = useState(false);
  const [offering, setOffering] = useState(false);
  const me = useMe();
  const [place, setPlace] = useState<{ document: number; line: number }>();
  const contract = useQuery({
    queryKey: ['contract', id],
    queryFn: () => api.get<Contract>(`/contracts/${id}`),
  });
  const operations = contract.data?.operations ?? [];
  const chosen =
    operations.find((o) => o.port === search.get('port') && o.key === search.get('operation')) ??
    operations[0];
  const at = { service: chosen?.service, port: chosen?.port, operation: chosen?.key, message: shown };
  const picked = picks.map((p) => `&pick=${encodeURIComponent(p)}`).join('');
  const example = useQuery({
    queryKey: ['example', id, contract.data?.revision, at, complete, picks],
    queryFn: () =>
      api.get<{ text: string; problems: string[]; checked: boolean }>(
        `/contracts/${id}/example${query(at)}&complete=${complete}${picked}`,
      ),
    enabled: !!chosen,
    placeholderData: (before) => before,
  });
  const tried = `/bench/${id}?port=${chosen?.port}&operation=${encodeURIComponent(chosen?.key ?? '')}`;
  const built =
    `/flows?new=1&contract=${encodeURIComponent(contract.data?.name ?? '')}&service=${chosen?.service}` +
    `&port=${chosen?.port}&operation=${encodeURIComponent(chosen?.key ?? '')}`;
  const simulate = async () => {
    const known = await api.get<Page<Simulator>>('/simulators?size=500');
    const its =
      known.items.find((s) => s.contractId === Number(id)) ??
      (await api.post<Simulator>('/simulators', { contract: Number(id) }));
    await client.invalidateQueries({ queryKey: ['endpoints'] });
    navigate(`/simulators/${its.id}`);
  };
  useKeys(
    chosen?.callable ? { t: () => navigate(tried), b: () => navigate(built), m: () => void simulate() } : {},
  );
  if (contract.isPending)
    return (
      <div className="page">
        <Skeleton active />
      </div>
    );
  if (!contract.data)
    return (
      <div className="page">
        <Trouble error={contract.error} retry={() => void contract.refetch()} />
      </div>
    );
  const whole = contract.data;
  const tab = search.get('show');
  const show = (part: Record<string, string | undefined>) => {
    const next = new URLSearchParams(search);
    for (const [name, value] of Object.entries(part)) {
      if (value === undefined) next.delete(name);
      else next.set(name, value);
    }
    setSearch(next);
  };
  const pick = (o: OfferedOperation) => {
    setShown('request');
    setPicks([]);
    show({ port: o.port, operation: o.key });
  };
  const effect = async (value: string) => {
    if (chosen)
      client.setQueryData(
        ['contract', id],
        await api.put<Contract>(`/contracts/${id}/effects`, { operation: chosen.key, effect: value }),
      );
  };
  const remove = () =>
    modal.confirm({
      title: `Remove ${whole.name}?`,
      content: 'Flows that call it can no longer run.',
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: async () => {
        await api.remove(`/contracts/${id}`);
        await client.invalidateQueries({ queryKey: ['contracts'] });
        navigate('/contracts');
      },
    });
  const jump = (f: Finding) => {
    const position = whole.documents.findIndex((d) => d.name === f.document);
    if (position < 0) void message.info('The document could not be fetched; there is no text to show.');
    else {
      setPlace({ document: position, line: f.line });
      show({ show: 'documents' });
    }
  };
  const problems = whole.findings.filter((f) => String(f.severity) !== 'NOTE').length;
  const advice =
    whole.ports.find((p) => p.service === chosen?.service && p.name === chosen?.port)?.advice ?? [];
  const port = whole.ports.find((p) => p.service === chosen?.service && p.name === chosen?.port);
  return (
    <div className={css.page}>
      <div className={css.head}>
        <h1>{whole.name}</h1>
        <span className="dim clip">
          {whole.types.toLocaleString('en')} types · from {whole.source}
        </span>
        <button
          type="button"
          className={`chip ${problems ? 'caution' : ''}`}
          onClick={() => show({ show: 'findings' })}
        >
          {whole.findings.length} {whole.findings.length === 1 ? 'finding' : 'findings'}
        </button>
        <button type="button" className="chip" onClick={() => show({ show: 'documents' })}>
          {whole.documents.length} {whole.documents.length === 1 ? 'document' : 'documents'}
        </button>
        <button type="button" className="chip" onClick={() => show({ show: 'revisions' })}>
          revision {whole.revision}
        </button>
        <span className="grow" />
        <Button danger type="text" onClick={remove}>
          Remove
        </Button>
        <Button onClick={() => setRefreshing(true)}>Refresh</Button>
        {chosen?.callable && (
          <Tooltip title="M">
            <Button onClick={() => void simulate()}>Simulate</Button>
          </Tooltip>
        )}
        {chosen?.callable && (
          <Tooltip title="T">
            <Button onClick={() => navigate(tried)}>Try</Button>
          </Tooltip>
        )}
        {chosen?.callable && me.build && <Button onClick={() => setOffering(true)}>Offer to callers</Button>}
        {chosen?.callable && (
          <Button type="primary" onClick={() => navigate(built)}>
            Build a flow
          </Button>
        )}
      </div>
      <div className={css.body}>
        <SidePane name="operations" side="left" start={250} min={180} max={420}>
          <OperationList operations={operations} chosen={chosen} onPick={pick} />
        </SidePane>
        {chosen && (
          <div className={css.middle}>
            <div className={css.about}>
              <h2>{chosen.key}</h2>
              <span className="dim">
                {chosen.kind} · {chosen.style}/{chosen.use} · {chosen.address || 'no address'}
              </span>
              <div className="row gap-above-s">
                <Segmented
                  size="small"
                  value={chosen.effect}
                  onChange={(v) => void effect(String(v))}
                  options={[
                    { value: 'reads', label: 'reads' },
                    { value: 'changes', label: 'changes data' },
                  ]}
                />
                <span className="dim">
                  {chosen.confirmed ? (
                    'confirmed'
                  ) : (
                    <>
                      proposed from its name ·{' '}
                      <button type="button" className="linkish" onClick={() => void effect(chosen.effect)}>
                        confirm
                      </button>
                    </>
                  )}
                </span>
              </div>
              {chosen.documentation && <p className="gap-above-s">{chosen.documentation}</p>}
              {port?.documentation && <p className="dim gap-above-s">{port.documentation}</p>}
              {advice.length > 0 && (
                <p className="gap-above-s">
                  <span className="chip caution">The service</span> {advice.map((a) => a.sentence).join('; ')}
                  .
                </p>
              )}
              {chosen.attachments.length > 0 && (
                <p className="dim gap-above-s">
                  Beside the envelope travels {chosen.attachments.join(', ')}.
                </p>
              )}
            </div>
            <div className="pad-sides cut">
              <Segmented
                size="small"
                value={shown}
                onChange={(v) => {
                  setShown(v);
                  setPicks([]);
                }}
                options={[
                  { value: 'request', label: 'Request' },
                  ...(chosen.oneWay ? [] : [{ value: 'reply', label: 'Reply' }]),
                  ...chosen.faults.map((f) => ({ value: `fault:${f}`, label: `Fault ${f}` })),
                  ...chosen.headerFaults.map((f) => ({
                    value: `headerfault:${f}`,
                    label: `Header fault ${f}`,
                  })),
                ]}
              />
            </div>
            <MessageSheet contract={Number(id)} at={at} picks={picks} onPicks={setPicks} />
          </div>
        )}
        <SidePane name="example" side="right" start={350} min={240} max={700}>
          <div className="row pad-row underlined">
            <b>Example</b>
            {example.data && (
              <span
                className={`chip ${example.data.problems.length ? 'failure' : example.data.checked ? 'fine' : ''}`}
                title={
                  example.data.checked
                    ? "checked by a validator over the contract's own schemas"
                    : 'the contract is too large to be checked here; kettle envelope --check does it'
                }
              >
                {example.data.problems.length ? 'not valid' : example.data.checked ? 'valid' : 'not checked'}
              </span>
            )}
            <span className="grow" />
            <label className="row dim" title="every optional part">
              <Switch size="small" checked={complete} onChange={setComplete} /> all parts
            </label>
            <Button
              size="small"
              onClick={() => {
                void navigator.clipboard?.writeText(example.data?.text ?? '');
                void message.success('Copied');
              }}
            >
              Copy
            </Button>
          </div>
          {example.data?.problems.map((p) => (
            <div key={p} className="bad pad-row anywhere">
              {p}
            </div>
          ))}
          <Trouble error={example.error} retry={() => void example.refetch()} />
          <pre className="xml fills">{example.data?.text}</pre>
        </SidePane>
      </div>
      <Drawer
        open={!!tab}
        onClose={() => {
          show({ show: undefined });
          setPlace(undefined);
        }}
        size={900}
        title={whole.name}
      >
        <Tabs
          activeKey={tab ?? 'findings'}
          onChange={(key) => show({ show: key })}
          items={[
            {
              key: 'findings',
              label: `Findings ${whole.findings.length}`,
              children: whole.findings.length ? (
                <Findings findings={whole.findings} onPlace={jump} />
              ) : (
                <p className="dim">Nothing unusual was found.</p>
              ),
            },
            {
              key: 'documents',
              label: `Documents ${whole.documents.length}`,
              children: <NumberedText contract={whole} place={place} onPlace={setPlace} />,
            },
            {
              key: 'revisions',
              label: `Revisions ${whole.revision}`,
              children: <Revisions contract={whole} />,
            },
          ]}
        />
      </Drawer>
      {offering && chosen && (
        <OfferDialog contract={whole.name} operation={chosen} onClose={() => setOffering(false)} />
      )}
      {refreshing && (
        <ImportContract
          refreshes={whole}
          onClose={() => setRefreshing(false)}
          onDone={(_, job) => navigate(`/contracts/${id}/refresh/${job}`)}
        />
      )}
    </div>
  );
}
