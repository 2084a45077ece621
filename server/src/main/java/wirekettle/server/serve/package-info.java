/** Flows that answer callers: their requests are records of a run that goes on while they are offered. */
package wirekettle.server.serve;
