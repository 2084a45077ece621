/** What fills a field or a column, and the values it gives for one record. */
package wirekettle.core.fill;
