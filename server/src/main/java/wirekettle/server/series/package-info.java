/** Series: numbers drawn in order, each once, over all runs of an environment. */
package wirekettle.server.series;
