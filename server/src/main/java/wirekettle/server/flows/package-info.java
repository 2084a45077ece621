/** Flows: revisions, the flow page's live answers, kept replies. */
package wirekettle.server.flows;
