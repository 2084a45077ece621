/** Named credentials: written once, encrypted at rest, never told again. */
package wirekettle.server.secrets;
