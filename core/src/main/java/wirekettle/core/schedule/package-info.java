/** When something is due: cron expressions and intervals in a time zone, days off, cut-offs. */
package wirekettle.core.schedule;
