package wirekettle.server.serve;

import io.vertx.core.http.HttpMethod;
import io.vertx.core.http.HttpServerRequest;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import wirekettle.server.triggers.TriggerSpec;

/** Pages of other origins (the Fetch standard, CORS protocol): none may ask unless its origin is named. */
final class Origins {
    private Origins() {}

    /** Tells whether a browser asks what a page may ask. */
    static boolean preflight(HttpServerRequest request) {
        return request.method().equals(HttpMethod.OPTIONS)
                && request.getHeader("Origin") != null
                && request.getHeader("Access-Control-Request-Method") != null;
    }

    /** Returns what a page may ask. */
    static Reply allowed(HttpServerRequest request, TriggerSpec spec) {
        List<String> headers =
                new ArrayList<>(List.of("Content-Type", "Authorization", "X-Api-Key", "Idempotency-Key", "Prefer"));
        if (spec.headers() != null) {
            spec.headers().forEach(each -> headers.add(each.header()));
        }
        Reply reply = new Reply(204, null, "", Map.of());
        return named(request, spec)
                ? reply.with("Access-Control-Allow-Methods", "GET, POST")
                        .with("Access-Control-Allow-Headers", String.join(", ", headers))
                        .with("Access-Control-Max-Age", "600")
                : reply;
    }

    /** Returns an answer as a page may see it. */
    static Reply seen(HttpServerRequest request, TriggerSpec spec, Reply reply) {
        if (spec.origins() == null) {
            return reply;
        }
        Reply varied = reply.with("Vary", "Origin");
        return named(request, spec)
                ? varied.with("Access-Control-Allow-Origin", request.getHeader("Origin"))
                        .with("Access-Control-Expose-Headers", "Location, Retry-After, Wire-Kettle-Record")
                : varied;
    }

    private static boolean named(HttpServerRequest request, TriggerSpec spec) {
        String origin = request.getHeader("Origin");
        return origin != null && spec.origins() != null && spec.origins().contains(origin);
    }
}
