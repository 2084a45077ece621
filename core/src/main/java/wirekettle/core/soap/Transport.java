package wirekettle.core.soap;

import java.util.Map;

/** Carries bytes to an address and back. Implementations are safe for several threads. */
public interface Transport {
    /**
     * What is sent.
     *
     * @param method GET or POST
     * @param address where to
     * @param headers the HTTP headers
     * @param body the content
     * @param limits how long to wait
     */
    record Request(String method, String address, Map<String, String> headers, byte[] body, Limits limits) {
        /** A POST, as SOAP sends. */
        public Request(String address, Map<String, String> headers, byte[] body, Limits limits) {
            this("POST", address, headers, body, limits);
        }
    }

    /**
     * What came back.
     *
     * @param status the HTTP status
     * @param headers the HTTP headers, names in lower case
     * @param body the content, decompressed
     * @param firstByteMillis from sending until the answer began
     * @param millis from sending to the last byte
     * @param sentHeaders the HTTP headers that were set on the request, secrets masked
     */
    record Answer(
            int status,
            Map<String, String> headers,
            byte[] body,
            long firstByteMillis,
            long millis,
            Map<String, String> sentHeaders) {
        /** An answer of which only the whole time is known. */
        public Answer(int status, Map<String, String> headers, byte[] body, long millis) {
            this(status, headers, body, millis, millis, Map.of());
        }
    }

    /**
     * Time and size limits of one call.
     *
     * @param connectMillis until connected
     * @param firstByteMillis from sending until the answer begins
     * @param wholeMillis until the answer is complete
     * @param maxBytes largest answer
     */
    record Limits(int connectMillis, int firstByteMillis, int wholeMillis, long maxBytes) {
        /** Five, thirty and sixty seconds; 16 MB. */
        public static final Limits DEFAULT = new Limits(5_000, 30_000, 60_000, 16L << 20);
    }

    /** Sends and waits for the whole answer; every failure is classified. */
    Answer send(Request request) throws CallFailure;
}
