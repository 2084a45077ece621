package wirekettle.server.serve;

import io.vertx.core.Vertx;
import io.vertx.core.http.HttpMethod;
import io.vertx.core.http.HttpServerResponse;
import io.vertx.ext.web.Router;
import io.vertx.ext.web.RoutingContext;
import io.vertx.ext.web.handler.BodyHandler;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import org.jboss.logging.Logger;
import wirekettle.core.record.InputReader;
import wirekettle.core.value.Node;
import wirekettle.server.signin.Tokens;
import wirekettle.server.web.Problem;

/** Answers callers at {@code /serve/}: JSON by POST, forms, and GET where a flow allows it. */
@ApplicationScoped
class ServeRoutes {
    private static final Logger LOG = Logger.getLogger(ServeRoutes.class);
    private static final String PREFIX = "/serve/";
    private static final int ORDER = -2_500;
    private static final long LARGEST = 20_000_000;
    private static final String FORM = "application/x-www-form-urlencoded";

    @Inject
    Vertx vertx;

    @Inject
    ServedFlows flows;

    @Inject
    CallerKeyMapper keys;

    void routes(@Observes Router router) {
        router.route(PREFIX + "*")
                .order(ORDER)
                .handler(BodyHandler.create(false).setBodyLimit(LARGEST))
                .handler(this::serve)
                .failureHandler(ServeRoutes::failed);
    }

    private static void failed(RoutingContext context) {
        if (context.statusCode() == 413) {
            write(context, Reply.problem(413, "too-large", "A request has at most " + LARGEST + " bytes."));
        } else {
            context.next();
        }
    }

    private void serve(RoutingContext context) {
        vertx.executeBlocking(() -> asked(context), false).onComplete(asked -> {
            if (asked.failed()) {
                write(context, unexpected(asked.cause()));
                return;
            }
            asked.result().whenComplete((reply, thrown) -> context.vertx()
                    .runOnContext(go -> write(context, thrown == null ? reply : unexpected(thrown))));
        });
    }

    private static Reply unexpected(Throwable thrown) {
        if (thrown instanceof Problem problem) {
            return Reply.problem(problem.status(), problem.code(), problem.getMessage());
        }
        LOG.error("a caller could not be answered", thrown);
        return Reply.problem(500, "internal", "Something went wrong inside; the server's log has more.");
    }

    private CompletableFuture<Reply> asked(RoutingContext context) {
        String path = context.normalizedPath().substring(PREFIX.length());
        Served served = flows.at(path);
        if (served == null) {
            return now(Reply.problem(404, "nothing-here", "Nothing answers at this path."));
        }
        Reply refused = refused(context, served);
        if (refused != null) {
            return now(refused);
        }
        List<InputReader.Problem> problems = new ArrayList<>();
        Node input;
        try {
            input = input(context, served, problems);
        } catch (InputReader.Unreadable e) {
            return now(Reply.problem(400, "not-json", "This is no JSON document: " + e.getMessage() + "."));
        }
        return problems.isEmpty() ? served.answer(input) : now(Reply.wrong(problems));
    }

    private static CompletableFuture<Reply> now(Reply reply) {
        return CompletableFuture.completedFuture(reply);
    }

    private Reply refused(RoutingContext context, Served served) {
        if (!Boolean.TRUE.equals(served.spec().open())) {
            CallerKeyMapper.Known key = served.key(hash(context), Instant.now());
            if (key == null) {
                return Reply.problem(
                        401, "no-key", "Send a key that counts, as Authorization: Bearer KEY or as X-Api-Key: KEY.");
            }
            keys.used(key.id());
        }
        HttpMethod method = context.request().method();
        boolean get = method.equals(HttpMethod.GET)
                && Boolean.TRUE.equals(served.spec().get())
                && served.flat();
        if (!get && !method.equals(HttpMethod.POST)) {
            return Reply.problem(
                    405,
                    "bad-method",
                    "It answers "
                            + (served.flat()
                                            && Boolean.TRUE.equals(served.spec().get())
                                    ? "GET and POST."
                                    : "POST."));
        }
        String type = type(context);
        if (!get
                && !type.isEmpty()
                && !type.equals(FORM)
                && !type.equals("application/json")
                && !type.endsWith("+json")) {
            return Reply.problem(
                    415, "bad-type", "It takes application/json" + (served.flat() ? " and " + FORM : "") + ".");
        }
        long bytes = context.body().length();
        return bytes > served.mostBytes()
                ? Reply.problem(413, "too-large", "A request has at most " + served.mostBytes() + " bytes.")
                : null;
    }

    private static String type(RoutingContext context) {
        String type = context.request().getHeader("Content-Type");
        return type == null ? "" : type.replaceFirst(";.*", "").strip().toLowerCase(Locale.ROOT);
    }

    private static String hash(RoutingContext context) {
        String key = context.request().getHeader("X-Api-Key");
        String bearer = context.request().getHeader("Authorization");
        if (key == null && bearer != null && bearer.regionMatches(true, 0, "Bearer ", 0, 7)) {
            key = bearer.substring(7).strip();
        }
        return key == null ? null : Tokens.hash(key);
    }

    private static Node input(RoutingContext context, Served served, List<InputReader.Problem> problems)
            throws InputReader.Unreadable {
        if (context.request().method().equals(HttpMethod.GET)) {
            return served.reader().texts(texts(context.queryParams()), problems);
        }
        if (type(context).equals(FORM)) {
            return served.reader().texts(texts(context.request().formAttributes()), problems);
        }
        var body = context.body().buffer();
        return served.reader().json(body == null ? new byte[0] : body.getBytes(), problems);
    }

    private static Map<String, List<String>> texts(io.vertx.core.MultiMap given) {
        Map<String, List<String>> all = new LinkedHashMap<>();
        given.names().forEach(name -> all.put(name, given.getAll(name)));
        return all;
    }

    private static void write(RoutingContext context, Reply reply) {
        HttpServerResponse response = context.response();
        if (response.ended() || response.closed()) {
            return;
        }
        response.setStatusCode(reply.status()).putHeader("Cache-Control", "no-store");
        if (reply.type() != null) {
            response.putHeader("Content-Type", reply.type());
        }
        if (reply.retrySeconds() > 0) {
            response.putHeader("Retry-After", Integer.toString(reply.retrySeconds()));
        }
        if (reply.record() != null) {
            response.putHeader("Wire-Kettle-Record", reply.record());
        }
        if (reply.status() == 401) {
            response.putHeader("WWW-Authenticate", "Bearer");
        }
        if (reply.type() == null) {
            response.end();
        } else {
            response.end(reply.body());
        }
    }
}
