/** The engine: records through the steps of a flow, and the doors to the outside and the ledger. */
package wirekettle.core.flow.run;
