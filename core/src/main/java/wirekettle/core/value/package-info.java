/** The immutable tree that holds every record and message, the layouts that type it, and the conversion of texts. */
package wirekettle.core.value;
