import type { EndpointSettings, OfferedOperation } from '../api/types';

/** Returns a request as a curl command; where a secret would stand, the name of a variable of the shell does. */
export function curl(
  operation: OfferedOperation,
  address: string,
  text: string,
  settings: EndpointSettings,
): string {
  const quoted = (t: string) => `'${t.replaceAll("'", `'\\''`)}'`;
  const variable = (name: string) => `"$${name.toUpperCase().replace(/[^A-Z0-9]+/g, '_')}"`;
  // a request over plain HTTP brings its method, path and headers as text
  const [head = '', ...rest] = operation.soapVersion ? [''] : text.trim().split(/\r?\n\r?\n/);
  const [first = '', ...lines] = head.split(/\r?\n/);
  const [method = '', target = ''] = first.split(/\s+/);
  const plain = /^[A-Z]+$/.test(method);
  const parts = [plain ? `curl -X ${method} ${quoted(address + target)}` : `curl ${quoted(address)}`];
  const header = (name: string, value: string) => parts.push(`-H ${quoted(`${name}: ${value}`)}`);
  if (operation.soapVersion === '1.2')
    header(
      'Content-Type',
      `application/soap+xml; charset=utf-8${operation.action ? `; action="${operation.action}"` : ''}`,
    );
  else if (operation.soapVersion) {
    header('Content-Type', 'text/xml; charset=utf-8');
    header('SOAPAction', `"${operation.action}"`);
  }
  if (plain) for (const line of lines) parts.push(`-H ${quoted(line)}`);
  const login = settings.login;
  const kind = String(login?.kind ?? 'none');
  if (kind === 'basic' || kind === 'digest')
    parts.push(`--${kind}`, `-u ${quoted(`${login?.user ?? ''}:`)}${variable(login?.secret ?? 'password')}`);
  if (kind === 'bearer' || kind === 'oauth2')
    parts.push(
      `-H 'Authorization: Bearer '${variable(kind === 'bearer' ? (login?.secret ?? 'token') : 'token')}`,
    );
  for (const h of settings.headers ?? []) {
    if (h.secret) parts.push(`-H ${quoted(`${h.name}: `)}${variable(h.secret)}`);
    else header(h.name ?? '', h.value ?? '');
  }
  if (settings.proxy?.address) parts.push(`-x ${quoted(settings.proxy.address)}`);
  if (settings.tls?.clientKey) parts.push(`--cert ${variable(`${settings.tls.clientKey} file`)}`);
  if ((settings.tls?.trusted?.length ?? 0) + (settings.tls?.fingerprints?.length ?? 0) > 0)
    parts.push('--cacert "$TRUSTED_FILE"');
  const body = plain ? rest.join('\n\n') : text;
  if (body) parts.push(`--data-binary ${quoted(body)}`);
  return parts.join(' \\\n  ');
}
