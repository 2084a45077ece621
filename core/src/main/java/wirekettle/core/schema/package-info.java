/** XML Schema 1.0: reading it into components, showing a message as a sheet of fields, examples, checks. */
package wirekettle.core.schema;
