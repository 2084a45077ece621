/** Refreshing a contract: what a new revision changes, which flows it touches, and carrying them over. */
package wirekettle.server.refresh;
