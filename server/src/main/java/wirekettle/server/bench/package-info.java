/** The bench: one operation tried by hand, its request as sheet and text, its exchanges kept. */
package wirekettle.server.bench;
