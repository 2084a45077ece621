/** The flow as it is written: its file, its stages, its bundle. */
package wirekettle.core.flow.file;
