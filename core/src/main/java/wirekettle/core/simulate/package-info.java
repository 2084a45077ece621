/** Answers in a contract's place: rules first, valid examples otherwise. */
package wirekettle.core.simulate;
