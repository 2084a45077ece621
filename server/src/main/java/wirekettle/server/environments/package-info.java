/** Environments: where flows run and operations are called, with their named values. */
package wirekettle.server.environments;
