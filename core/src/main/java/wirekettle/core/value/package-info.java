/** The immutable tree everything flows as, the layouts that type it, and the conversion of texts. */
package wirekettle.core.value;
