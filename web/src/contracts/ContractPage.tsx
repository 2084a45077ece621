import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Drawer, Input, Segmented, Skeleton, Switch, Tabs } from 'antd';
import { useMemo, useState } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import { api, query } from '../api/client';
import type { Contract, Finding, OfferedOperation, SheetRow } from '../api/types';
import { SidePane, Trouble } from '../shared/parts';
import { SheetTable } from '../shared/SheetTable';
import css from './ContractPage.module.css';
import { Findings } from './Findings';
import { NumberedText } from './NumberedText';

/** Operations on the left, the chosen one's message sheets in the middle, an example on the right. */
export function ContractPage() {
  const { id } = useParams();
  const navigate = useNavigate();
  const client = useQueryClient();
  const { modal, message } = App.useApp();
  const [search, setSearch] = useSearchParams();
  const [text, setText] = useState('');
  const [shown, setShown] = useState('request');
  const [complete, setComplete] = useState(true);
  const [drawer, setDrawer] = useState(false);
  const [place, setPlace] = useState<{ document: number; line: number }>();
  const contract = useQuery({ queryKey: ['contract', id], queryFn: () => api.get<Contract>(`/contracts/${id}`) });
  const operations = contract.data?.operations ?? [];
  const chosen =
    operations.find((o) => o.port === search.get('port') && o.key === search.get('operation')) ?? operations[0];
  const fits = operations.filter((o) => `${o.key} ${o.documentation}`.toLowerCase().includes(text.toLowerCase()));
  const at = chosen ? query({ service: chosen.service, port: chosen.port, operation: chosen.key, message: shown }) : '';
  const sheet = useQuery({
    queryKey: ['sheet', id, at],
    queryFn: () => api.get<SheetRow[]>(`/contracts/${id}/sheet${at}`),
    enabled: !!chosen,
  });
  const example = useQuery({
    queryKey: ['example', id, at, complete],
    queryFn: () => api.get<{ text: string; problems: string[] }>(`/contracts/${id}/example${at}&complete=${complete}`),
    enabled: !!chosen,
  });
  const ports = useMemo(() => [...new Set(fits.map((o) => o.port))], [fits]);
  if (contract.isPending) return <div className="page"><Skeleton active /></div>;
  if (!contract.data) return <div className="page"><Trouble error={contract.error} retry={() => void contract.refetch()} /></div>;
  const whole = contract.data;
  const pick = (o: OfferedOperation) => {
    setShown('request');
    setSearch({ port: o.port, operation: o.key });
  };
  const effect = async (value: string) => {
    if (!chosen) return;
    client.setQueryData(['contract', id], await api.put<Contract>(`/contracts/${id}/effects`, { operation: chosen.key, effect: value }));
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
    else setPlace({ document: position, line: f.line });
  };
  const problems = whole.findings.filter((f) => String(f.severity) !== 'NOTE').length;
  return (
    <div className={css.page}>
      <div className={css.head}>
        <h1>{whole.name}</h1>
        <span className="dim clip">{whole.types} types · from {whole.source}</span>
        <button type="button" className={`chip ${problems ? 'caution' : ''}`} onClick={() => setDrawer(true)}>
          {whole.findings.length} findings · {whole.documents.length} documents
        </button>
        <span className="grow" />
        <Button danger type="text" onClick={remove}>Remove</Button>
        {chosen?.callable && (
          <Button type="primary" onClick={() => navigate(`/flows?new=1&contract=${encodeURIComponent(whole.name)}&service=${chosen.service}&port=${chosen.port}&operation=${encodeURIComponent(chosen.key)}`)}>
            Build a flow
          </Button>
        )}
      </div>
      <div className={css.body}>
        <SidePane name="operations" side="left" start={250} min={180} max={420}>
          <div style={{ padding: 8 }}>
            <Input size="small" allowClear placeholder={`Find among ${operations.length} operations`} value={text} onChange={(e) => setText(e.target.value)} />
          </div>
          <div style={{ overflow: 'auto', flex: 1 }}>
            {ports.map((port) => {
              const first = operations.find((o) => o.port === port);
              return (
                <div key={port}>
                  <div className={css.port} title={first?.address}>{port} <span className="faint">{first?.soapVersion ? `SOAP ${first.soapVersion}` : 'no SOAP'}</span></div>
                  {fits.filter((o) => o.port === port).map((o) => (
                    <button key={o.port + o.key} type="button" className={`${css.operation} ${o === chosen ? css.on : ''}`} onClick={() => pick(o)}>
                      <span className="clip grow">{o.key}</span>
                      <span className="faint">{o.effect}</span>
                    </button>
                  ))}
                </div>
              );
            })}
            {fits.length === 0 && <div className="dim" style={{ padding: 12 }}>No operation has that name.</div>}
          </div>
        </SidePane>
        {chosen && (
          <div className={css.middle}>
            <div className={css.about}>
              <h2>{chosen.key}</h2>
              <span className="dim">{chosen.style}/{chosen.use} · {chosen.address || 'no address'}</span>
              <div className="row" style={{ marginTop: 6 }}>
                <Segmented size="small" value={chosen.effect} onChange={(v) => void effect(String(v))} options={[{ value: 'reads', label: 'reads' }, { value: 'changes', label: 'changes data' }]} />
                <span className="dim">{chosen.confirmed ? 'confirmed' : <>proposed from its name · <button type="button" className="linkish" onClick={() => void effect(chosen.effect)}>confirm</button></>}</span>
              </div>
              {chosen.documentation && <p style={{ margin: '6px 0 0' }}>{chosen.documentation}</p>}
            </div>
            <div style={{ padding: '0 12px' }}>
              <Segmented
                size="small"
                value={shown}
                onChange={setShown}
                options={[
                  { value: 'request', label: 'Request' },
                  ...(chosen.oneWay ? [] : [{ value: 'reply', label: 'Reply' }]),
                  ...chosen.faults.map((f) => ({ value: `fault:${f}`, label: `Fault ${f}` })),
                ]}
              />
            </div>
            <Trouble error={sheet.error} retry={() => void sheet.refetch()} />
            <SheetTable rows={sheet.data ?? []} height="100%" />
          </div>
        )}
        <SidePane name="example" side="right" start={380} min={240} max={700}>
          <div className="row" style={{ padding: '8px 12px', borderBottom: '1px solid var(--line)' }}>
            <b>Example</b>
            <span className="grow" />
            <label className="row dim"><Switch size="small" checked={complete} onChange={setComplete} /> every optional part</label>
            <Button size="small" onClick={() => { void navigator.clipboard?.writeText(example.data?.text ?? ''); void message.success('Copied'); }}>Copy</Button>
          </div>
          {example.data?.problems.map((p) => <div key={p} className="bad" style={{ padding: '4px 12px' }}>{p}</div>)}
          <pre className="xml" style={{ flex: 1 }}>{example.data?.text}</pre>
        </SidePane>
      </div>
      <Drawer open={drawer} onClose={() => { setDrawer(false); setPlace(undefined); }} size={860} title={whole.name}>
        <Tabs
          activeKey={place ? 'documents' : undefined}
          onChange={() => setPlace(undefined)}
          items={[
            { key: 'findings', label: `Findings ${whole.findings.length}`, children: whole.findings.length ? <Findings findings={whole.findings} onPlace={jump} /> : <p className="dim">Nothing unusual was found.</p> },
            { key: 'documents', label: `Documents ${whole.documents.length}`, children: <NumberedText contract={whole} place={place} onPlace={setPlace} /> },
          ]}
        />
      </Drawer>
    </div>
  );
}
