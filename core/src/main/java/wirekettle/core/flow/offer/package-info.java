/** Flows made of what a contract offers: an operation as JSON. */
package wirekettle.core.flow.offer;
