import type { EndpointSettings, MessageStyle } from '../api/types';

const LOGINS: Record<string, string> = {
  basic: 'basic login',
  digest: 'digest login',
  bearer: 'bearer token',
  oauth2: 'OAuth 2',
};

/** Returns what reaching an endpoint takes, in a few words. */
export function settingsWords(settings: EndpointSettings): string {
  return [
    LOGINS[settings.login?.kind ?? ''],
    settings.tls?.clientKey && 'client certificate',
    (settings.tls?.trusted?.length ?? 0) + (settings.tls?.fingerprints?.length ?? 0) > 0 && 'own trust',
    settings.security?.token &&
      settings.security.token !== 'none' &&
      `user name token as ${settings.security.token}`,
    settings.security?.lifetimeSeconds && 'timestamp',
    settings.security?.signKey && 'signed',
    settings.addressing && 'addressing',
    settings.mtom && 'MTOM',
    settings.proxy?.address && 'proxy',
    (settings.headers?.length ?? 0) > 0 && `${settings.headers?.length} HTTP headers`,
    settings.charset,
  ]
    .filter(Boolean)
    .join(' · ');
}

/** Returns what is unusual about a style, in a few words. */
export function styleWords(style: MessageStyle): string {
  return [
    style.prefixes === 'contract' ? "contract's prefixes" : style.prefixes === 'none' ? 'no prefixes' : '',
    style.sendEmpty ? 'empty fields sent' : '',
    style.forceTypes ? 'types forced' : '',
    style.orderAsGiven ? 'order as given' : '',
  ]
    .filter(Boolean)
    .join(' · ');
}
