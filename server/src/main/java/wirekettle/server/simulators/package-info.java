/** Simulated services that answer in place of a contract's service, by rules. */
package wirekettle.server.simulators;
