/** Driving the started product: a browser, and the pictures of its main views. */
package wirekettle.e2e;
