/** {@code ./kettle}: core and connect from a shell; no database, no server. */
package wirekettle.cli;
