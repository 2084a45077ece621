/** The mapping as analysts keep it: a line for each field, in words that are read again. */
package wirekettle.core.assist.sheet;
