/** What unfinished runs need: such things cannot be removed while they need them. */
package wirekettle.server.uses;
