/** What keeps the server up whatever comes: connections, half-sent requests, memory. */
package wirekettle.server.limits;
