import type { OfferedOperation } from '../api/types';

/** Returns a request as a curl command; nothing secret is in it. */
export function curl(operation: OfferedOperation, address: string, text: string): string {
  const quoted = (t: string) => `'${t.replaceAll("'", `'\\''`)}'`;
  const action = operation.action;
  const headers =
    operation.soapVersion === '1.2'
      ? [`Content-Type: application/soap+xml; charset=utf-8${action ? `; action="${action}"` : ''}`]
      : ['Content-Type: text/xml; charset=utf-8', `SOAPAction: "${action}"`];
  return [`curl ${quoted(address)}`, ...headers.map((h) => `-H ${quoted(h)}`), `--data-binary ${quoted(text)}`].join(' \\\n  ');
}
