/** Answers in place of a contract's service: rules first, valid examples otherwise. */
package wirekettle.core.simulate;
