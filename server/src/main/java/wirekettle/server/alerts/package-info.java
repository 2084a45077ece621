/** Telling people: rules about runs, absence and what ends, messages by mail and web hook, and who has seen them. */
package wirekettle.server.alerts;
