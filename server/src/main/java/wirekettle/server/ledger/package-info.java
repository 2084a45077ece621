/** What runs did: the ledger and its tables. */
package wirekettle.server.ledger;
