/** Reads XML safely (no DTD, bounded depth and size) into a light tree that knows line and column. */
package wirekettle.core.xml;
