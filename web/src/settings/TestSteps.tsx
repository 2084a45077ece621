import { Button } from 'antd';
import type { EndpointTestResult } from '../api/types';
import css from './EndpointPage.module.css';
import { Until } from './Until';

const NAMES: Record<string, string> = {
  name: 'Name',
  connect: 'Connect',
  tls: 'TLS',
  http: 'HTTP',
  amqp: 'AMQP',
  soap: 'SOAP',
  session: 'Session',
};

/** What a test found, step by step, and the certificate the server showed with the offer to trust it. */
export function TestSteps({
  result,
  trusted,
  onTrust,
}: {
  result: EndpointTestResult;
  trusted: string[];
  onTrust: (fingerprint: string) => void;
}) {
  const certificate = result.certificate;
  const refused = result.steps.some((s) => s.name === 'tls' && !s.works);
  return (
    <div data-works={result.works}>
      {result.steps.map((s) => (
        <div key={s.name} className={css.step}>
          <span className={s.works ? '' : 'bad'} style={s.works ? { color: 'var(--primary)' } : undefined}>
            {s.works ? '✓' : '✗'}
          </span>
          <b>{NAMES[s.name] ?? s.name}</b>
          <span className={s.works ? 'dim' : 'bad'}>{s.detail}</span>
          <span className="faint num">{s.millis} ms</span>
        </div>
      ))}
      {certificate && (
        <div className={css.certificate}>
          <b>Certificate of {certificate.subject}</b>
          <span className="dim">
            signed by {certificate.issuer}, from {certificate.validFrom.slice(0, 10)}{' '}
            <Until at={certificate.validUntil} />
          </span>
          <span className="dim">SHA-256 fingerprint</span>
          <span className="mono anywhere small">{certificate.fingerprint.match(/../g)?.join(' ')}</span>
          {refused && !trusted.includes(certificate.fingerprint) && (
            <>
              <span className="dim">Compare it with what the service's owner tells you. Then:</span>
              <Button type="primary" onClick={() => onTrust(certificate.fingerprint)}>
                Trust this certificate
              </Button>
            </>
          )}
        </div>
      )}
    </div>
  );
}
