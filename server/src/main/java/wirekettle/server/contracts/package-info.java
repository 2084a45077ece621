/** Imported contracts: importing with progress, keeping, showing. */
package wirekettle.server.contracts;
