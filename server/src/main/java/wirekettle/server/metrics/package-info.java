/** The figures of runs, records and alerts for whoever watches this server from outside. */
package wirekettle.server.metrics;
