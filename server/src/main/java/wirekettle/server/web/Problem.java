package wirekettle.server.web;

import java.util.LinkedHashMap;
import java.util.Map;

/** An error of the API (RFC 9457): status, a stable code, what is wrong and what to do. */
public final class Problem extends RuntimeException {
    private final int status;
    private final String code;
    private final transient Map<String, Object> more = new LinkedHashMap<>();

    /** Makes a problem. */
    public Problem(int status, String code, String detail) {
        super(detail);
        this.status = status;
        this.code = code;
    }

    /** Adds a member of its own to the problem document. */
    public Problem with(String name, Object value) {
        more.put(name, value);
        return this;
    }

    /** Returns the problem of something that is not there. */
    public static Problem missing(String what) {
        return new Problem(404, "not-found", "There is no such " + what + " (any more).");
    }

    /** Returns the stable code. */
    public String code() {
        return code;
    }

    /** Returns the HTTP status. */
    public int status() {
        return status;
    }

    Map<String, Object> document() {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("type", "about:blank");
        document.put("title", code);
        document.put("status", status);
        document.put("detail", getMessage());
        document.put("code", code);
        document.putAll(more);
        return document;
    }
}
