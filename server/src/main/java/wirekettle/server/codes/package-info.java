/** Code tables: kept once, shared by flows. */
package wirekettle.server.codes;
