/** XPath 3.1 over the variables in reach, wires, scripts, and the guard that ends evaluations that run away. */
package wirekettle.core.expression;
