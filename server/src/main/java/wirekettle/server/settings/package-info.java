/** Allowed hosts and endpoints. */
package wirekettle.server.settings;
