/** What helps people to fill: suggestions, fixes, proofs over samples, learned shapes, carrying fills over. */
package wirekettle.core.assist;
