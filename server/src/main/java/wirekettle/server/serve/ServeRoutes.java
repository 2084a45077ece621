package wirekettle.server.serve;

import io.vertx.core.Vertx;
import io.vertx.core.http.HttpServerResponse;
import io.vertx.ext.web.Router;
import io.vertx.ext.web.RoutingContext;
import io.vertx.ext.web.handler.BodyHandler;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jboss.logging.Logger;
import wirekettle.core.record.InputReader;
import wirekettle.core.value.Node;
import wirekettle.server.web.Problem;

/** Answers callers at {@code /serve/}: JSON, XML and forms by POST, and GET where a flow allows it. */
@ApplicationScoped
class ServeRoutes {
    private static final Logger LOG = Logger.getLogger(ServeRoutes.class);
    static final String PREFIX = "/serve/";
    private static final int ORDER = -2_500;
    private static final long LARGEST = 20_000_000;
    private static final Pattern BELOW =
            Pattern.compile("(.+)/(?:(openapi\\.json)|" + Asked.ANSWERS + "/([A-Za-z0-9_-]+))");

    @Inject
    Vertx vertx;

    @Inject
    ServedFlows flows;

    @Inject
    CallerAnswers answers;

    @Inject
    CallerTraffic traffic;

    /** An answer, and of whom it is counted. */
    private record Counted(Served served, String caller, CompletableFuture<Reply> reply) {
        private static Counted of(Served served, String caller, Reply reply) {
            return new Counted(served, caller, CompletableFuture.completedFuture(reply));
        }
    }

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
        long since = System.nanoTime();
        vertx.executeBlocking(() -> asked(context), false).onComplete(asked -> {
            if (asked.failed()) {
                write(context, unexpected(asked.cause()));
                return;
            }
            Counted its = asked.result();
            its.reply().whenComplete((done, thrown) -> {
                Reply reply = thrown == null ? done : unexpected(thrown);
                if (its.served() != null) {
                    reply = Origins.seen(context.request(), its.served().spec(), reply);
                    traffic.count(its.served().trigger(), its.caller(), reply.status(), System.nanoTime() - since);
                }
                Reply last = reply;
                context.vertx().runOnContext(go -> write(context, last));
            });
        });
    }

    private static Reply unexpected(Throwable thrown) {
        if (thrown instanceof Problem problem) {
            return Reply.problem(problem.status(), problem.code(), problem.getMessage());
        }
        LOG.error("a caller could not be answered", thrown);
        return Reply.problem(500, "internal", "Something went wrong inside; the server's log has more.");
    }

    private Counted asked(RoutingContext context) {
        String path = context.normalizedPath().substring(PREFIX.length());
        Matcher below = BELOW.matcher(path);
        boolean isBelow = below.matches();
        String base = isBelow ? below.group(1) : path;
        ServedFlows.Found found = flows.at(base);
        if (found == null) {
            return Counted.of(null, "", Reply.problem(404, "nothing-here", "Nothing answers at this path."));
        }
        Served served = found.served();
        if (Origins.preflight(context.request())) {
            return Counted.of(served, "", Origins.allowed(context.request(), served.spec()));
        }
        CallerRequest request = new CallerRequest(context);
        CallerKeyMapper.Known key = key(served, request.keyHash());
        if (key == null && !Boolean.TRUE.equals(served.spec().open())) {
            return Counted.of(
                    served,
                    "",
                    Reply.problem(
                                    401,
                                    "no-key",
                                    "Send a key that counts, as Authorization: Bearer KEY or as X-Api-Key: KEY.")
                            .with("WWW-Authenticate", "Bearer"));
        }
        String caller = key == null ? "" : key.name();
        Integer aMinute = key == null ? null : key.aMinute();
        long seconds = served.pace().takes(caller, aMinute, System.nanoTime());
        if (seconds > 0) {
            return Counted.of(served, caller, Reply.tooMany(aMinute, seconds));
        }
        if (isBelow && request.get()) {
            Reply reply = below.group(2) != null
                    ? new Reply(
                            200,
                            Reply.JSON,
                            OpenApi.of(served.spec(), served.revision(), served.file(), PREFIX)
                                    .toPrettyString(),
                            Map.of())
                    : answers.at(served.trigger(), caller, PREFIX + base, below.group(3));
            return Counted.of(served, caller, reply);
        }
        Reply refused = isBelow ? Reply.problem(405, "bad-method", "This is asked by GET.") : request.refused(served);
        return refused == null
                ? new Counted(served, caller, answered(request, found, caller, context))
                : Counted.of(served, caller, refused);
    }

    /** Returns the key a caller shows, null where it is none that counts. */
    private static CallerKeyMapper.Known key(Served served, String hash) {
        CallerKeyMapper.Known known = hash == null ? null : served.key(hash);
        return known == null || known.endsAt() != null && !known.endsAt().isAfter(Instant.now()) ? null : known;
    }

    private CompletableFuture<Reply> answered(
            CallerRequest request, ServedFlows.Found found, String caller, RoutingContext context) {
        Served served = found.served();
        String asked = context.normalizedPath() + "?" + context.request().query();
        Reply known = request.get() ? served.remembered().get(asked, System.currentTimeMillis()) : null;
        if (known != null) {
            return CompletableFuture.completedFuture(known);
        }
        List<InputReader.Problem> problems = new ArrayList<>();
        Node input;
        try {
            input = request.input(served, found.values(), problems);
        } catch (InputReader.Unreadable e) {
            return CompletableFuture.completedFuture(request.unreadable(e));
        }
        if (!problems.isEmpty()) {
            return CompletableFuture.completedFuture(Reply.wrong(problems));
        }
        boolean later = request.later()
                || !request.get() && Boolean.TRUE.equals(served.spec().later());
        CompletableFuture<Reply> reply =
                served.answer(Asked.of(input, caller, context.normalizedPath(), request.named(), later));
        return request.get()
                ? reply.thenApply(its -> served.remembered().put(asked, its, System.currentTimeMillis()))
                : reply;
    }

    private static void write(RoutingContext context, Reply reply) {
        HttpServerResponse response = context.response();
        if (response.ended() || response.closed()) {
            return;
        }
        response.setStatusCode(reply.status()).putHeader("Cache-Control", "no-store");
        reply.headers().forEach(response::putHeader);
        if (reply.type() == null) {
            response.end();
        } else {
            response.putHeader("Content-Type", reply.type()).end(reply.body());
        }
    }
}
