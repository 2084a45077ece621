package wirekettle.core.soap;

import java.util.List;
import java.util.Map;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.value.Content;

/** Sends bytes to an address and returns the answer. Implementations are safe for several threads. */
public interface Transport {
    /**
     * What is sent.
     *
     * @param method GET or POST
     * @param address where to
     * @param headers the HTTP headers
     * @param content what is sent, read while it is
     * @param limits how long to wait
     * @param room where the answer goes while it is worked on
     */
    record Request(
            String method, String address, Map<String, String> headers, Content content, Limits limits, CallRoom room) {
        /** A request in memory. */
        public Request(String method, String address, Map<String, String> headers, byte[] body, Limits limits) {
            this(method, address, headers, Content.of(body), limits, CallRoom.NONE);
        }

        /** A POST in memory. */
        public Request(String address, Map<String, String> headers, byte[] body, Limits limits) {
            this("POST", address, headers, body, limits);
        }

        /** Returns the same request with another room for its answer. */
        public Request in(CallRoom other) {
            return new Request(method, address, headers, content, limits, other);
        }

        /** Returns the whole content in memory. */
        public byte[] body() {
            return content.bytes();
        }
    }

    /**
     * What came back.
     *
     * @param status the HTTP status
     * @param headers the HTTP headers, names in lower case
     * @param body the content, decompressed; of an answer that was taken apart as it came only the root part
     * @param parts the parts of an answer that was taken apart as it came, the root first, null for any other
     * @param firstByteMillis from sending until the answer began
     * @param millis from sending to the last byte
     * @param sentHeaders the HTTP headers that were set on the request, secrets masked
     */
    record Answer(
            int status,
            Map<String, String> headers,
            byte[] body,
            List<Part> parts,
            long firstByteMillis,
            long millis,
            Map<String, String> sentHeaders) {
        /** An answer of which only the whole time is known. */
        public Answer(int status, Map<String, String> headers, byte[] body, long millis) {
            this(status, headers, body, null, millis, millis, Map.of());
        }
    }

    /**
     * Time and size limits of one call.
     *
     * @param connectMillis until connected
     * @param firstByteMillis from sending until the answer begins
     * @param wholeMillis until the answer is complete
     * @param maxBytes largest answer; of one that is taken apart as it comes the largest root part
     * @param maxAttachmentBytes largest answer that is taken apart as it comes
     */
    record Limits(int connectMillis, int firstByteMillis, int wholeMillis, long maxBytes, long maxAttachmentBytes) {
        /** Five, thirty and sixty seconds; 16 MB; 1 GB. */
        public static final Limits DEFAULT = new Limits(5_000, 30_000, 60_000, 16L << 20, 1L << 30);

        /** Limits with the usual one for attachments. */
        public Limits(int connectMillis, int firstByteMillis, int wholeMillis, long maxBytes) {
            this(connectMillis, firstByteMillis, wholeMillis, maxBytes, 1L << 30);
        }
    }

    /** Sends and waits for the whole answer; every failure is classified. */
    Answer send(Request request) throws CallFailure;
}
