/** The Desk, and finding anything by name. */
package wirekettle.server.desk;
