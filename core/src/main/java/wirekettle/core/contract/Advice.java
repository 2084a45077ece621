package wirekettle.core.contract;

/**
 * What a contract requires of callers of a port beyond the messages, read from WS-Policy, WS-Addressing and MTOM
 * markers.
 *
 * @param code a stable word: username-token, tls, addressing, mtom and so on
 * @param sentence what it wants, to be read after "the service"
 * @param document the document it stands in
 * @param line the line, from 1
 */
public record Advice(String code, String sentence, String document, int line) {}
