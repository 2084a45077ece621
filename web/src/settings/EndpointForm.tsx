import { Button, Checkbox, Input, InputNumber, Segmented, Select } from 'antd';
import type { ReactNode } from 'react';
import type { EndpointSettings, MessageStyle } from '../api/types';
import { Certificates } from './Certificates';
import css from './EndpointPage.module.css';
import { HoursForm } from './HoursForm';
import { SecretPick } from './SecretPick';
import { SessionForm } from './SessionForm';

function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className={css.row}>
      <span className="dim">{label}</span>
      <div className={css.value}>{children}</div>
    </div>
  );
}

/** Everything reaching an endpoint may take, in the order a call meets it. */
export function EndpointForm({
  settings,
  onChange,
  style,
  onStyle,
}: {
  settings: EndpointSettings;
  onChange: (settings: EndpointSettings) => void;
  style: MessageStyle;
  onStyle: (style: MessageStyle) => void;
}) {
  const login = settings.login ?? {};
  const tls = settings.tls ?? {};
  const security = settings.security ?? {};
  const limits = settings.limits ?? {};
  const proxy = settings.proxy ?? {};
  const down = settings.down ?? {};
  const headers = settings.headers ?? [];
  const set = (part: Partial<EndpointSettings>) => onChange({ ...settings, ...part });
  const setLogin = (part: Partial<typeof login>) => set({ login: { ...login, ...part } });
  const setDown = (part: Partial<typeof down>) => set({ down: { ...down, ...part } });
  const setTls = (part: Partial<typeof tls>) => set({ tls: { ...tls, ...part } });
  const setSecurity = (part: Partial<typeof security>) => set({ security: { ...security, ...part } });
  const kind = String(login.kind ?? 'none');
  const token = String(security.token ?? 'none');
  const text = (
    label: string,
    value: string | undefined,
    change: (text: string | undefined) => void,
    placeholder = '',
    width = 220,
  ) => (
    <Input
      size="small"
      style={{ width }}
      aria-label={label}
      placeholder={placeholder}
      value={value ?? ''}
      onChange={(e) => change(e.target.value || undefined)}
    />
  );
  const number = (
    name:
      | 'connectMillis'
      | 'firstByteMillis'
      | 'wholeMillis'
      | 'maxMegabytes'
      | 'maxAttachmentMegabytes'
      | 'atOnce'
      | 'perSecond'
      | 'runsPercent',
    usual: number,
    unit: string,
  ) => (
    <InputNumber
      size="small"
      className="field-m"
      aria-label={name}
      placeholder={usual ? String(usual) : 'any'}
      suffix={unit}
      value={limits[name]}
      onChange={(v) => set({ limits: { ...limits, [name]: v ?? undefined } })}
    />
  );
  return (
    <div className={css.form}>
      <section>
        <h3>Connection</h3>
        <Row label="Limits">
          connect {number('connectMillis', 5000, 'ms')} first byte {number('firstByteMillis', 30000, 'ms')}{' '}
          whole {number('wholeMillis', 60000, 'ms')} at most {number('maxMegabytes', 16, 'MB')}{' '}
          <span title="of an answer whose attachments go to files">
            with attachments {number('maxAttachmentMegabytes', 1024, 'MB')}
          </span>
        </Row>
        <Row label="All runs together">
          at most {number('atOnce', 0, 'at once')} and {number('perSecond', 0, 'a second')}, of which runs
          have {number('runsPercent', 100, '%')}
        </Row>
        <Row label="Hours">
          <HoursForm hours={limits.hours} onChange={(hours) => set({ limits: { ...limits, hours } })} />
        </Row>
        <Row label="Counts as down">
          <Select
            mode="tags"
            size="small"
            className="field-m"
            aria-label="Statuses that count as down"
            placeholder="HTTP 503, …"
            value={(down.statuses ?? []).map(String)}
            onChange={(all: string[]) =>
              setDown({ statuses: all.map(Number).filter((n) => Number.isInteger(n)) })
            }
          />{' '}
          <Select
            mode="tags"
            size="small"
            className="field-l"
            aria-label="Faults that count as down"
            placeholder="fault or its code, …"
            value={down.faults ?? []}
            onChange={(faults: string[]) => setDown({ faults })}
          />{' '}
          {text(
            'Text that counts as down',
            down.text,
            (t) => setDown({ text: t }),
            'text in the reason',
            160,
          )}
        </Row>
        <Row label="Proxy">
          {text(
            'Proxy',
            proxy.address,
            (address) => set({ proxy: address ? { ...proxy, address } : undefined }),
            'host:port',
          )}
          {proxy.address && (
            <>
              as{' '}
              {text('Proxy user', proxy.user, (user) => set({ proxy: { ...proxy, user } }), 'no login', 110)}{' '}
              <SecretPick
                label="Proxy password"
                value={proxy.secret}
                onChange={(secret) => set({ proxy: { ...proxy, secret } })}
              />
            </>
          )}
        </Row>
      </section>
      <section>
        <h3>TLS</h3>
        <Row label="Also trust">
          <Certificates
            add="Add an authority or server certificate"
            pems={tls.trusted ?? []}
            onChange={(trusted) => setTls({ trusted })}
          />
        </Row>
        {(tls.fingerprints?.length ?? 0) > 0 && (
          <Row label="Trusted as they are">
            {tls.fingerprints?.map((f) => (
              <span key={f} className="row">
                <span className="mono clip narrow" title={f}>
                  {f}
                </span>
                <Button
                  size="small"
                  type="text"
                  aria-label={`Trust ${f.slice(0, 8)} no longer`}
                  onClick={() => setTls({ fingerprints: tls.fingerprints?.filter((x) => x !== f) })}
                >
                  ×
                </Button>
              </span>
            ))}
          </Row>
        )}
        <Row label="Client certificate">
          <SecretPick
            kind="key"
            label="Client certificate"
            value={tls.clientKey}
            onChange={(clientKey) => setTls({ clientKey })}
          />
        </Row>
        <Row label="Host name">
          <Checkbox checked={!tls.anyHostName} onChange={(e) => setTls({ anyHostName: !e.target.checked })}>
            the certificate must be for the host called
          </Checkbox>
        </Row>
      </section>
      <section>
        <h3>Login</h3>
        <Row label="By HTTP">
          <Segmented
            size="small"
            value={kind}
            onChange={(k) => setLogin({ kind: k as never })}
            options={[
              { value: 'none', label: 'none' },
              { value: 'basic', label: 'basic' },
              { value: 'digest', label: 'digest' },
              { value: 'bearer', label: 'bearer token' },
              { value: 'oauth2', label: 'OAuth 2' },
            ]}
          />
        </Row>
        {kind === 'oauth2' && (
          <Row label="Tokens come from">
            {text(
              'Token address',
              login.tokenAddress,
              (tokenAddress) => setLogin({ tokenAddress }),
              'https://…',
              300,
            )}{' '}
            scope {text('Scope', login.scope, (scope) => setLogin({ scope }), 'none', 120)}
          </Row>
        )}
        {kind !== 'none' && (
          <Row label={kind === 'bearer' ? 'Token' : kind === 'oauth2' ? 'Client' : 'User'}>
            {kind !== 'bearer' &&
              text(
                'Login user',
                login.user,
                (user) => setLogin({ user }),
                kind === 'oauth2' ? 'client id' : 'name',
                160,
              )}
            <SecretPick
              label="Login secret"
              value={login.secret}
              onChange={(secret) => setLogin({ secret })}
            />
          </Row>
        )}
      </section>
      <section>
        <h3>WS-Security</h3>
        <Row label="User name token">
          <Segmented
            size="small"
            value={token}
            onChange={(t) => setSecurity({ token: t as never })}
            options={[
              { value: 'none', label: 'none' },
              { value: 'text', label: 'password as text' },
              { value: 'digest', label: 'password digest' },
            ]}
          />
        </Row>
        {token !== 'none' && (
          <Row label="User">
            {text('Token user', security.user, (user) => setSecurity({ user }), 'name', 160)}{' '}
            <SecretPick
              label="Token password"
              value={security.secret}
              onChange={(secret) => setSecurity({ secret })}
            />
          </Row>
        )}
        <Row label="Timestamp">
          <Checkbox
            checked={security.lifetimeSeconds !== undefined}
            onChange={(e) => setSecurity({ lifetimeSeconds: e.target.checked ? 300 : undefined })}
          >
            sent
          </Checkbox>
          {security.lifetimeSeconds !== undefined && (
            <>
              valid for{' '}
              <InputNumber
                size="small"
                min={1}
                max={86_400}
                className="field-m"
                suffix="s"
                aria-label="Timestamp lifetime"
                value={security.lifetimeSeconds}
                onChange={(v) => setSecurity({ lifetimeSeconds: v ?? 300 })}
              />
            </>
          )}
        </Row>
        <Row label="Signature">
          <SecretPick
            kind="key"
            label="Signing key"
            value={security.signKey}
            onChange={(signKey) => setSecurity({ signKey })}
          />
          {security.signKey && (
            <span className="dim">over body{security.lifetimeSeconds ? ' and timestamp' : ''}</span>
          )}
        </Row>
        <Row label="Replies signed by">
          <Certificates
            add="Add the signer or its authority"
            pems={security.verifyReplies ?? []}
            onChange={(verifyReplies) => setSecurity({ verifyReplies })}
          />
        </Row>
        <Row label="">
          <Checkbox
            checked={!security.optional}
            onChange={(e) => setSecurity({ optional: !e.target.checked })}
          >
            the service must understand the header
          </Checkbox>
        </Row>
      </section>
      <section>
        <h3>Messages</h3>
        <Row label="Charset">
          <Select
            size="small"
            aria-label="Charset"
            className="field-l"
            value={settings.charset ?? 'UTF-8'}
            onChange={(c) => set({ charset: c === 'UTF-8' ? undefined : c })}
            options={['UTF-8', 'ISO-8859-1', 'ISO-8859-15', 'windows-1252', 'UTF-16'].map((value) => ({
              value,
            }))}
          />
          <Checkbox
            checked={settings.addressing ?? false}
            onChange={(e) => set({ addressing: e.target.checked })}
          >
            WS-Addressing
          </Checkbox>
          <Checkbox checked={settings.mtom ?? false} onChange={(e) => set({ mtom: e.target.checked })}>
            MTOM
          </Checkbox>
        </Row>
        <Row label="HTTP headers">
          <div className="stack tight">
            {headers.map((h, i) => {
              const change = (part: Partial<typeof h>) =>
                set({ headers: headers.map((x, at) => (at === i ? { ...x, ...part } : x)) });
              return (
                <span key={i} className="row">
                  {text(`Header ${i + 1} name`, h.name, (name) => change({ name: name ?? '' }), 'name', 130)}
                  {h.secret === undefined &&
                    text(`Header ${i + 1} value`, h.value, (value) => change({ value }), 'value', 150)}
                  {!h.value && (
                    <SecretPick
                      label={`Header ${i + 1} secret`}
                      value={h.secret}
                      onChange={(secret) => change({ secret })}
                    />
                  )}
                  <Button
                    size="small"
                    type="text"
                    aria-label={`Remove header ${i + 1}`}
                    onClick={() => set({ headers: headers.filter((_, at) => at !== i) })}
                  >
                    ×
                  </Button>
                </span>
              );
            })}
            <button
              type="button"
              className="linkish"
              onClick={() => set({ headers: [...headers, { name: '' }] })}
            >
              Add a header
            </button>
          </div>
        </Row>
        <Row label="SOAP headers">
          <div className="stack tight fills">
            {(settings.soapHeaders ?? []).map((block, i) => (
              <span key={i} className="row">
                <Input.TextArea
                  className="mono"
                  autoSize={{ minRows: 1, maxRows: 6 }}
                  aria-label={`SOAP header ${i + 1}`}
                  placeholder="<x:Desk xmlns:x=…>{secret:name}</x:Desk>"
                  value={block}
                  onChange={(e) =>
                    set({
                      soapHeaders: settings.soapHeaders?.map((x, at) => (at === i ? e.target.value : x)),
                    })
                  }
                />
                <Button
                  size="small"
                  type="text"
                  aria-label={`Remove SOAP header ${i + 1}`}
                  onClick={() => set({ soapHeaders: settings.soapHeaders?.filter((_, at) => at !== i) })}
                >
                  ×
                </Button>
              </span>
            ))}
            <button
              type="button"
              className="linkish"
              onClick={() => set({ soapHeaders: [...(settings.soapHeaders ?? []), ''] })}
            >
              Add a header block
            </button>
          </div>
        </Row>
        <Row label="Written with">
          <Select
            size="small"
            aria-label="Prefixes"
            className="field-xl"
            value={style.prefixes}
            onChange={(prefixes) => onStyle({ ...style, prefixes })}
            options={[
              { value: 'numbered', label: 'prefixes n1, n2, …' },
              { value: 'contract', label: "the contract's prefixes" },
              { value: 'none', label: 'default namespaces' },
            ]}
          />
          <Checkbox
            checked={!style.sendEmpty}
            onChange={(e) => onStyle({ ...style, sendEmpty: !e.target.checked })}
          >
            empty fields left out
          </Checkbox>
          <Checkbox
            checked={style.forceTypes}
            onChange={(e) => onStyle({ ...style, forceTypes: e.target.checked })}
          >
            <span className="mono">xsi:type</span> everywhere
          </Checkbox>
          <Checkbox
            checked={style.orderAsGiven}
            onChange={(e) => onStyle({ ...style, orderAsGiven: e.target.checked })}
          >
            order of the fills
          </Checkbox>
          <span className="faint">in every environment</span>
        </Row>
      </section>
      <SessionForm
        session={settings.session}
        row={(label, children) => <Row label={label}>{children}</Row>}
        onChange={(session) => set({ session })}
      />
    </div>
  );
}
