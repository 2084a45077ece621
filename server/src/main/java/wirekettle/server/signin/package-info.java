/** Who may use the product: people, sessions, and the guard before every request. */
package wirekettle.server.signin;
