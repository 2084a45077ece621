/** Endpoints and how they are reached. */
package wirekettle.server.settings;
