/** Runs: starting, going on, ending, live counts, downloads. */
package wirekettle.server.runs;
