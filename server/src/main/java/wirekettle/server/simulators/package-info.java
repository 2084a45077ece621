/** Services of our own that answer in a contract's place, steered by rules. */
package wirekettle.server.simulators;
