/** The flow compiled against contracts and layouts, and everything wrong with it. */
package wirekettle.core.flow.compile;
