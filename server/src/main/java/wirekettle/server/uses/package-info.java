/** What runs going on need: such things cannot be removed under them. */
package wirekettle.server.uses;
