/** What starts published flows by itself: a clock, a file that comes, another flow's end. */
package wirekettle.server.triggers;
