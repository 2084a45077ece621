/** The hosts that imports and calls may reach. */
package wirekettle.server.hosts;
