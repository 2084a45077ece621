/** Rows and documents made from what is in reach. */
package wirekettle.core.record;
