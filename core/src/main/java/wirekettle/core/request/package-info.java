/** The plan that writes a request message from fills, and what reads fills back from one. */
package wirekettle.core.request;
