/** The flow file, its validation, the bundle, and the engine that runs it. */
package wirekettle.core.flow;
