/**
 * What the simulated services ask of their callers: logins, tokens, signatures. Written without any of the product's
 * own code for the same things, so that each is the other's referee.
 */
package wirekettle.demo.gates;
