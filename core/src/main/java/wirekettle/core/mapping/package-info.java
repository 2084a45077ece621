/** Fills, the plan they compile to, expressions, suggestions, and records made from replies. */
package wirekettle.core.mapping;
