/** Which revision of a flow is in force where, what differs, and what an environment lacks for it. */
package wirekettle.server.publish;
