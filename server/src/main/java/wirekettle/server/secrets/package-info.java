/** Named credentials: written once, encrypted at rest, never returned. */
package wirekettle.server.secrets;
