import { createContext } from 'react';

/** The host and port of the endpoint being set up: where a secret written on the spot may be sent. */
export const Destination = createContext('');

/** Returns the host and port of an http address, empty when it has none. */
export function destination(address: string): string {
  try {
    const at = new URL(address);
    if (at.protocol !== 'http:' && at.protocol !== 'https:') return '';
    return `${at.hostname}:${at.port || (at.protocol === 'https:' ? '443' : '80')}`;
  } catch {
    return '';
  }
}
