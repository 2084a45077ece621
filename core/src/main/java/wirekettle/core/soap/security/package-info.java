/** Secrets and keys, and what WS-Security 1.1 makes of them in messages: tokens, timestamps, signatures. */
package wirekettle.core.soap.security;
