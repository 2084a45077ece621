package wirekettle.server.serve;

import io.vertx.core.http.HttpMethod;
import io.vertx.core.http.HttpServerRequest;
import io.vertx.ext.web.RoutingContext;
import java.nio.charset.Charset;
import java.nio.charset.IllegalCharsetNameException;
import java.nio.charset.StandardCharsets;
import java.nio.charset.UnsupportedCharsetException;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.record.InputReader;
import wirekettle.core.value.Node;
import wirekettle.server.signin.Tokens;
import wirekettle.server.triggers.TriggerSpec;

/** What a caller sends, as HTTP has it. */
final class CallerRequest {
    private static final String FORM = "application/x-www-form-urlencoded";
    private static final Pattern CHARSET = Pattern.compile("(?i);\\s*charset\\s*=\\s*\"?([^\";\\s]+)");
    private static final Pattern ASYNC = Pattern.compile("(?i)(^|,)\\s*respond-async\\s*($|[,;])");
    private static final int MOST_NAMED = 255;

    private final RoutingContext context;
    private final HttpServerRequest request;

    CallerRequest(RoutingContext context) {
        this.context = context;
        this.request = context.request();
    }

    boolean get() {
        return request.method().equals(HttpMethod.GET);
    }

    /** Returns what is sent, without a charset; empty where nothing is said. */
    private String type() {
        String type = request.getHeader("Content-Type");
        return type == null ? "" : type.replaceFirst(";.*", "").strip().toLowerCase(Locale.ROOT);
    }

    private boolean xml() {
        return type().equals("application/xml") || type().equals("text/xml") || type().endsWith("+xml");
    }

    private boolean json() {
        return type().isEmpty() || type().equals("application/json") || type().endsWith("+json");
    }

    private boolean form() {
        return type().equals(FORM);
    }

    /** Returns the hash of the key that is shown, null for none. */
    String keyHash() {
        return keyHash(request);
    }

    /** Returns the hash of the key a request shows: as a header of its own, bearer, or as the password of basic. */
    static String keyHash(HttpServerRequest request) {
        String key = request.getHeader("X-Api-Key");
        String said = request.getHeader("Authorization");
        if (key == null && said != null && said.regionMatches(true, 0, "Bearer ", 0, 7)) {
            key = said.substring(7).strip();
        } else if (key == null && said != null && said.regionMatches(true, 0, "Basic ", 0, 6)) {
            key = password(said.substring(6).strip());
        }
        return key == null ? null : Tokens.hash(key);
    }

    /** Returns the password of basic authentication (RFC 7617), null where it cannot be read. */
    private static String password(String encoded) {
        try {
            String pair = new String(Base64.getDecoder().decode(encoded), StandardCharsets.UTF_8);
            int colon = pair.indexOf(':');
            return colon < 0 ? null : pair.substring(colon + 1);
        } catch (IllegalArgumentException e) {
            return null;
        }
    }

    /** Returns the caller's own name for what it sends (Idempotency-Key), or null. */
    String named() {
        return get() ? null : request.getHeader("Idempotency-Key");
    }

    /** Tells whether the caller does not want to wait (RFC 7240, 4.1). */
    boolean later() {
        return !get()
                && request.headers().getAll("Prefer").stream()
                        .anyMatch(each -> ASYNC.matcher(each).find());
    }

    /** Returns why it is not taken whatever it holds, null where it may be. */
    Reply refused(Served served) {
        boolean may = get()
                ? Boolean.TRUE.equals(served.spec().get())
                : request.method().equals(HttpMethod.POST);
        if (!may) {
            String takes = Boolean.TRUE.equals(served.spec().get()) ? "GET, POST" : "POST";
            return Reply.problem(405, "bad-method", "This path takes " + takes + ".")
                    .with("Allow", takes);
        }
        if (!get() && !json() && !xml() && !form()) {
            return Reply.problem(
                    415,
                    "bad-type",
                    "It takes application/json, application/xml" + (served.flat() ? " and " + FORM : "") + ".");
        }
        Matcher charset = CHARSET.matcher(String.valueOf(request.getHeader("Content-Type")));
        if (charset.find() && !utf8(charset.group(1))) {
            return Reply.problem(415, "bad-charset", "It takes UTF-8, not " + charset.group(1) + ".");
        }
        if (named() != null && !named().matches("[\\x21-\\x7e]{1," + MOST_NAMED + "}")) {
            return Reply.problem(
                    400,
                    "bad-idempotency-key",
                    "An Idempotency-Key has 1 to " + MOST_NAMED + " printable characters without spaces.");
        }
        return null;
    }

    private static boolean utf8(String name) {
        try {
            return Charset.forName(name).equals(StandardCharsets.UTF_8)
                    || Charset.forName(name).equals(StandardCharsets.US_ASCII);
        } catch (IllegalCharsetNameException | UnsupportedCharsetException e) {
            return false;
        }
    }

    /**
     * Reads the record.
     *
     * @param values the fields its address says
     */
    Node input(Served served, Map<String, List<String>> values, List<InputReader.Problem> problems)
            throws InputReader.Unreadable {
        Map<String, List<String>> beside = new LinkedHashMap<>(values);
        List<TriggerSpec.HeaderField> headers = served.spec().headers();
        for (TriggerSpec.HeaderField each : headers == null ? List.<TriggerSpec.HeaderField>of() : headers) {
            List<String> given = request.headers().getAll(each.header());
            if (!given.isEmpty()) {
                beside.put(each.field(), given);
            }
        }
        InputReader reader = served.reader();
        if (get() || form()) {
            Map<String, List<String>> texts =
                    texts(get() ? context.queryParams() : context.request().formAttributes());
            texts.putAll(beside);
            return reader.texts(texts, problems);
        }
        var buffer = context.body().buffer();
        byte[] body = buffer == null ? new byte[0] : buffer.getBytes();
        return xml() ? reader.xml(body, beside, problems) : reader.json(body, beside, problems);
    }

    /** Says what a body that cannot be read is not. */
    Reply unreadable(InputReader.Unreadable why) {
        return xml()
                ? Reply.problem(400, "not-xml", "This is no XML document: " + why.getMessage() + ".")
                : Reply.problem(400, "not-json", "This is no JSON document: " + why.getMessage() + ".");
    }

    private static Map<String, List<String>> texts(io.vertx.core.MultiMap given) {
        Map<String, List<String>> all = new LinkedHashMap<>();
        given.names().forEach(name -> all.put(name, given.getAll(name)));
        return all;
    }
}
