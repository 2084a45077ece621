/** The outside as core's small interfaces see it: HTTP, files, databases. */
package wirekettle.connect;
