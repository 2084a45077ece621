/** Runs: starting, the ledger, live counts, downloads. */
package wirekettle.server.runs;
